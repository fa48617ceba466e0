import { explainRows, type ExplainQuestion } from "@/core/explain/explain-rows";
import type { Model } from "@/core/learn/model";
import { mix } from "@/core/numeric/random";
import { UNWATCHED } from "../pace";
import { explainInTime } from "./explaining";

const uniform = (rows: number, seed: number): number[] =>
  Array.from({ length: rows }, (_, row) => mix(row, seed) / 4294967296);

/** Neighbours among many rows, whose prediction takes long; the answer is the first column. */
function slow(columns: number, among: number): ExplainQuestion {
  const numbers = Array.from({ length: columns }, (_, index) => ({
    column: `x${index}`,
    centre: 0,
    spread: 1,
    values: uniform(among, index),
  }));
  const model = {
    algorithm: "nearest_neighbours",
    binary: false,
    k: 3,
    weighting: "equal",
    classes: 0,
    numbers,
    categories: [],
    answers: numbers[0]!.values,
    fit: { rows: among, engine: "streaming", numbersOut: 0, passes: [], among },
  } satisfies Model;
  const rows = Array.from({ length: 200 }, (_, row) =>
    numbers.map((_column, index) => mix(row, 1000 + index) / 4294967296),
  );
  return {
    model,
    task: { kind: "number" },
    rows,
    answers: Float64Array.from(rows, (row) => row[0]!),
    metric: "rmse",
    seed: 5,
    importances: Infinity,
    dependences: 2,
  };
}

test("what takes long is explained beside the process, with the same result, and can be given up", async () => {
  const question = slow(6, 1000);
  let beats = 0;
  const beating = setInterval(() => (beats += 1), 10);
  const explained = await explainInTime({ question, seconds: 600, short: 0 }, UNWATCHED);
  clearInterval(beating);
  expect(beats).toBeGreaterThan(10);
  expect(explained).toEqual(await explainRows(question, () => Promise.resolve(true)));
  expect(explained.importance[0]!.column).toBe("x0");
  const giveUp = (): void => {
    throw new Error("given up");
  };
  await expect(
    explainInTime({ question, seconds: 600, short: 0 }, { ...UNWATCHED, stopIfAsked: giveUp }),
  ).rejects.toThrow("given up");
});

test("when the time is over, what was measured is the answer", async () => {
  const { importance, dependence } = await explainInTime(
    { question: slow(20, 100), seconds: 0.0001, short: 0 },
    UNWATCHED,
  );
  expect([importance.length, dependence.length]).toEqual([1, 1]);
});
