import { mix } from "../../numeric/random";
import { unwrap } from "../../problem";
import type { ColumnData } from "../memory/column-data";
import { MemoryFrame } from "../memory/memory-frame";
import { compileModel } from "../compiled";
import { boostSettings } from "../boosted-trees/facts";
import { fitBoosted } from "../boosted-trees/boost";

/** When boosting stops on small tables: whatever the seed, about where five folds would stop it. */
const UNSEEN = 4000;

/** Rows of yes and no with six numbers, made from a seed; some noise, some columns that say nothing. */
function table(rows: number, seed: number, odds: (x: readonly number[]) => number): ColumnData {
  const u = (row: number, salt: number): number => mix(row, seed * 101 + salt) / 4294967296;
  const x = (row: number): readonly number[] =>
    Array.from({ length: 6 }, (_, index) => 4 * u(row, index) - 2);
  const values = Array.from({ length: rows }, (_, row) => x(row));
  return {
    rows,
    numbers: Array.from({ length: 6 }, (_, index) => ({
      column: `x${index}`,
      values: Float64Array.from(values, (value) => value[index]!),
    })),
    categories: [],
    target: Float64Array.from(values, (value, row) => Number(u(row, 9) < 1 / (1 + Math.exp(-odds(value))))),
    weight: undefined,
    draw: Float64Array.from({ length: rows }, (_, row) => u(row, 11)),
    fold: new Int16Array(rows),
    moment: undefined,
  };
}

/** Rows, seeds and log odds. Ten seeds on each take two minutes and spread no further. */
const TABLES = [
  [1000, 10, (x: readonly number[]) => 1.2 * x[0]! - x[1]! + (x[2]! > 0 ? 1 : -1)],
  [2000, 3, (x: readonly number[]) => 2 * Math.sin(2 * x[0]!) + x[1]! * x[2]!],
  [3000, 3, (x: readonly number[]) => x[0]! * x[0]! - 2 + 0.5 * x[3]! - (x[4]! > 1 ? 2 : 0)],
] as const;

async function fitted(data: ColumnData, settings: object) {
  return unwrap(
    await fitBoosted(new MemoryFrame({ kind: "binary" }, data), boostSettings.parse(settings), {
      categories: [],
    }),
  ).model;
}

const part = (data: ColumnData, keep: (row: number) => boolean): ColumnData => {
  const rows = [...Array(data.rows).keys()].filter(keep);
  const of = (values: Float64Array): Float64Array => Float64Array.from(rows, (row) => values[row]!);
  return {
    ...data,
    rows: rows.length,
    numbers: data.numbers.map((number) => ({ ...number, values: of(number.values) })),
    target: of(data.target),
    draw: of(data.draw),
    fold: new Int16Array(rows.length),
  };
};

/** Log loss of a model's first rounds on rows. */
function lossOf(model: Awaited<ReturnType<typeof fitted>>, data: ColumnData, rounds: number): number {
  const compiled = compileModel({ ...model, rounds: model.rounds.slice(0, rounds) });
  const columns = compiled.columns.map(
    (name) => data.numbers.find((number) => number.column === name)!.values,
  );
  let sum = 0;
  for (let row = 0; row < data.rows; row += 1) {
    const p = compiled.predict(columns.map((values) => values[row]!))[0]!;
    sum -= Math.log(Math.max(1e-15, data.target[row] === 1 ? p : 1 - p));
  }
  return sum / data.rows;
}

const GRID = [5, 10, 15, 20, 30, 40, 60, 80, 120, 180];

test.each(TABLES)(
  "%i rows: %i seeds stop within 0.02 of each other, and 0.01 of the best number by five folds",
  async (rows, seeds, odds) => {
    const data = table(rows, 3, odds);
    const unseen = table(UNSEEN, 4, odds);
    // The best fixed number: five folds, each grown to the end and looked at along the way.
    const byFolds = GRID.map(() => 0);
    for (let fold = 0; fold < 5; fold += 1) {
      const model = await fitted(
        part(data, (row) => row % 5 !== fold),
        { trees: GRID.at(-1), validation_share: 0 },
      );
      const judged = part(data, (row) => row % 5 === fold);
      GRID.forEach((count, at) => (byFolds[at]! += lossOf(model, judged, count)));
    }
    const best = GRID[byFolds.indexOf(Math.min(...byFolds))]!;
    const fixed = lossOf(await fitted(data, { trees: best, validation_share: 0 }), unseen, best);
    const losses: number[] = [];
    for (let seed = 1; seed <= seeds; seed += 1) {
      const model = await fitted(data, { seed });
      losses.push(lossOf(model, unseen, model.rounds.length));
    }
    const mean = losses.reduce((sum, loss) => sum + loss, 0) / seeds;
    expect(Math.max(...losses) - Math.min(...losses)).toBeLessThanOrEqual(0.02);
    expect(mean - fixed).toBeLessThanOrEqual(0.01);
  },
);
