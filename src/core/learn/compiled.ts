import type { Model } from "./model";
import type { Predict, Values } from "./model-kind";
import { columnsRead, kindOf } from "./model-kinds";
import type { FeatureRow } from "./task";

/** A model made ready to predict very many rows: columns have places instead of names. */
export interface CompiledModel {
  readonly columns: readonly string[];
  readonly predict: Predict;
}

/** Makes a model ready to predict very many rows. */
export function compileModel(model: Model): CompiledModel {
  const read = columnsRead(model);
  const columns = [...read.numbers, ...read.categories];
  const places = new Map(columns.map((name, index) => [name, index]));
  return { columns, predict: kindOf(model).compile(model, places) };
}

/** A row's values in the order of the columns. */
export const valuesOf = (row: FeatureRow, columns: readonly string[]): Values =>
  columns.map((name) => row[name] ?? null);

const compiled = new WeakMap<Model, CompiledModel>();

/**
 * A row's prediction by the core's own arithmetic: the probability of yes, the number, or a probability for each class.
 * NaN where a number the model needs is missing.
 * @param row feature values: numbers for number columns, the text (or null) for categories
 */
export function predict(model: Model, row: FeatureRow): readonly number[] {
  const ready = compiled.get(model) ?? compileModel(model);
  compiled.set(model, ready);
  return ready.predict(valuesOf(row, ready.columns));
}
