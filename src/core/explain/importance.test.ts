import type { CompiledModel } from "../learn/compiled";
import { mix } from "../numeric/random";
import { mostInfluential, permutationImportance } from "./importance";

/** A model of very many columns, of which only some decide: those at the end of the table. */
const COLUMNS = 420;
const DECIDING = [400, 407, 419];
const model: CompiledModel = {
  columns: Array.from({ length: COLUMNS }, (_, index) => `x${index}`),
  predict: (values) => [DECIDING.reduce((sum, index, at) => sum + (at + 1) * Number(values[index]), 0)],
};
const rows = Array.from({ length: 300 }, (_, row) =>
  Array.from({ length: COLUMNS }, (_each, index) => mix(row, index) / 4294967296),
);
const measured = {
  task: { kind: "number" },
  rows,
  answers: Float64Array.from(rows, (row) => model.predict(row)[0]!),
  metric: "rmse",
  seed: 5,
} as const;
const goOn = (): Promise<boolean> => Promise.resolve(true);

test("of very many columns those are measured that move predictions, wherever they stand in the table", async () => {
  const places = await mostInfluential(model, measured, 60, goOn);
  expect(places).toHaveLength(60);
  expect(places).toEqual(expect.arrayContaining(DECIDING));
  const importance = await permutationImportance(model, measured, places, goOn);
  expect(importance.slice(0, 3).map((found) => found.column)).toEqual(["x419", "x407", "x400"]);
  expect(importance.slice(3).every((found) => found.worse === 0)).toBe(true);
});

test("when the time is over, what was measured are the columns that move predictions most", async () => {
  let asked = 0;
  const until = (columns: number) => (): Promise<boolean> => Promise.resolve((asked += 1) < columns);
  const places = await mostInfluential(model, measured, COLUMNS, until(COLUMNS + 1));
  expect([...places].sort((left, right) => left - right)).toEqual([...Array(COLUMNS).keys()]);
  asked = 0;
  const importance = await permutationImportance(model, measured, places, until(2));
  expect(importance.map((found) => found.column)).toEqual(["x419", "x407"]);
});
