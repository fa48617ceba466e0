import type { ColumnData } from "@/core/learn/memory/column-data";
import { MemoryFrame } from "@/core/learn/memory/memory-frame";
import { boostSettings } from "@/core/learn/boosted-trees/facts";
import { fitBoosted } from "@/core/learn/boosted-trees/boost";
import { mix } from "@/core/numeric/random";
import { unwrap } from "@/core/problem";
import { openTeam } from "./team";

/** Rows with gaps, weights, and categories of few and of more than 256 levels. */
function made(rows: number): ColumnData {
  const uniform = (seed: number) =>
    Float64Array.from({ length: rows }, (_, row) => mix(row, seed) / 4294967296);
  const levels = (count: number): string[] => Array.from({ length: count }, (_, level) => `level ${level}`);
  const numbers = [1, 2, 3, 4, 5].map((seed) => ({
    column: `x${seed}`,
    values: uniform(seed).map((value) => (value < 0.05 ? Number.NaN : value)),
  }));
  const categories = [
    ["few", 7],
    ["many", 400],
  ].map(([column, count], index) => ({
    column: String(column),
    levels: levels(Number(count)),
    codes: Int32Array.from(uniform(20 + index), (value) => Math.floor(value * (Number(count) + 1))),
  }));
  const target = Float64Array.from(uniform(9), (value, row) =>
    (numbers[0]!.values[row]! || 0) + (categories[1]!.codes[row]! % 5) / 5 > value * 2 ? 1 : 0,
  );
  return {
    rows,
    numbers,
    categories,
    target,
    weight: uniform(10).map((value) => value * 3),
    draw: uniform(11),
    fold: new Int16Array(rows).fill(-1),
    moment: undefined,
  };
}

test("several threads grow the trees that one grows, to the last bit, on rows of their own and on rows they are given later", async () => {
  const team = await openTeam(3);
  try {
    for (const rows of [20_001, 9_000]) {
      const data = made(rows);
      const fit = async (frame: MemoryFrame): Promise<string> => {
        const { model } = unwrap(
          await fitBoosted(
            frame,
            boostSettings.parse({ trees: 6, depth: 5, rows_share: 0.8, validation_share: 0.2 }),
            { categories: data.categories },
          ),
        );
        return JSON.stringify([model.rounds, model.fit.passes]);
      };
      const expected = await fit(new MemoryFrame({ kind: "binary" }, data));
      expect((await fit(new MemoryFrame({ kind: "binary" }, data, { team }))) === expected).toBe(true);
    }
  } finally {
    await team.close();
  }
});
