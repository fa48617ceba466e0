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
const rest = (): Promise<void> => Promise.resolve();

test("of very many columns those are measured that move predictions, wherever they stand in the table", async () => {
  const places = await mostInfluential(model, measured, 60, rest);
  expect(places).toHaveLength(60);
  expect(places).toEqual(expect.arrayContaining(DECIDING));
  const importance = await permutationImportance(model, measured, places, rest);
  expect(importance.slice(0, 3).map((each) => each.column)).toEqual(["x419", "x407", "x400"]);
  expect(importance.slice(3).every((each) => each.worse === 0)).toBe(true);
});

test("few columns are all measured, in their own order", async () => {
  expect(await mostInfluential(model, measured, COLUMNS, rest)).toEqual([...Array(COLUMNS).keys()]);
});
