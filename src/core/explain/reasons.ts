import { roundSignificant } from "../format/numbers";
import { predict, valuesOf } from "../learn/compiled";
import type { Model, ModelOf } from "../learn/model";
import { columnsRead, kindOf } from "../learn/model-kinds";
import { nearest } from "../learn/nearest-neighbours/neighbours";
import type { FeatureRow } from "../learn/task";
import type { Background, ExplainedRow } from "./explained-row";

/**
 * Why a row was predicted as it was: parts by column that add up, with the base, to the predictor.
 * Exact Shapley values for linear and tree models, and for naive Bayes what each column says by itself; for networks and
 * neighbours, what changes as the columns are put in one after the other from the usual row to this one, in two opposite orders.
 * @param output which class is explained, for models of several classes; else 0
 */
export const reasonsFor = (
  model: Model,
  row: FeatureRow,
  output: number,
  background: Background,
): ExplainedRow => kindOf(model).explain({ model, row, output, background });

/** A reason as it is delivered beside a prediction. */
export interface DeliveredReason {
  readonly column: string;
  readonly value: string | number | null;
  /** Its part of the log odds, of the prediction, or of the logarithm of the class's share, as the learner has it. */
  readonly part: number;
}

/** The weightiest reasons of a row's prediction, largest first. Of several classes the most probable one is explained. */
export function weightiestReasons(
  model: Model,
  row: FeatureRow,
  prediction: ArrayLike<number>,
  background: Background,
  most: number,
): readonly DeliveredReason[] {
  let output = 0;
  for (let index = 1; index < prediction.length; index += 1)
    if (prediction[index]! > prediction[output]!) output = index;
  return reasonsFor(model, row, output, background)
    .parts.filter((part) => part.value !== 0)
    .sort((left, right) => Math.abs(right.value) - Math.abs(left.value))
    .slice(0, most)
    .map(({ column, value }) => ({ column, value: row[column] ?? null, part: roundSignificant(value, 6) }));
}

/** The predictor that reasons add up to. */
export function predictorOf(model: Model, row: FeatureRow, output: number): number {
  const { compilePredictor } = kindOf(model);
  if (!compilePredictor) return predict(model, row)[output]!;
  const { numbers, categories } = columnsRead(model);
  const columns = [...numbers, ...categories];
  const places = new Map(columns.map((name, place) => [name, place]));
  return compilePredictor(model, places)(valuesOf(row, columns))[output]!;
}

/** The training rows that decided a prediction by nearest neighbours, nearest first, in original units. */
export function neighboursOf(
  model: ModelOf<"nearest_neighbours">,
  row: FeatureRow,
): readonly { readonly distance: number; readonly answer: number; readonly values: FeatureRow }[] {
  return nearest(model, row).map(({ place, distance }) => ({
    distance,
    answer: model.answers[place]!,
    values: Object.fromEntries<number | string | null>([
      ...model.numbers.map((number): [string, number] => [
        number.column,
        number.values[place]! * number.spread + number.centre,
      ]),
      ...model.categories.map((category): [string, string | null] => [
        category.column,
        category.values[place]!,
      ]),
    ]),
  }));
}
