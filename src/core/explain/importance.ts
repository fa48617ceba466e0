import { figureMaker } from "../evaluate/figures";
import { METRICS, type MetricName } from "../evaluate/metrics";
import { predict, type Model } from "../learn/model";
import { outputsOf, type FeatureRow, type Task } from "../learn/task";
import { shuffled } from "../numeric/random";

export interface Importance {
  readonly column: string;
  /** How much worse the metric gets when the column's values are shuffled among the rows: mean, smallest and largest of the rounds. */
  readonly worse: number;
  readonly least: number;
  readonly most: number;
}

/** Rounds of shuffling: one says little about how far chance carries. */
const ROUNDS = 3;

/** Predictions of rows, column by column. */
export function predictAll(model: Model, task: Task, rows: readonly FeatureRow[]): readonly Float64Array[] {
  const outputs = Array.from({ length: outputsOf(task) }, () => new Float64Array(rows.length));
  rows.forEach((row, place) => predict(model, row).forEach((value, output) => { outputs[output]![place] = value; }));
  return outputs;
}

/**
 * Permutation importance on rows the model has not seen. Source: Breiman, "Random forests", Machine Learning 45, 2001, section 10.
 * @param breathe called after each column
 */
export async function permutationImportance(model: Model, task: Task, rows: readonly FeatureRow[], answers: Float64Array, columns: readonly string[], metric: MetricName, seed: number, breathe: () => Promise<void>): Promise<readonly Importance[]> {
  const figure = (outputs: readonly Float64Array[]): number => figureMaker(task.kind, { outputs, answers })(undefined)[metric] ?? 0;
  const before = figure(predictAll(model, task, rows));
  const sign = METRICS[metric].better === "high" ? 1 : -1;
  const found: Importance[] = [];
  for (const [index, column] of columns.entries()) {
    const losses = Array.from({ length: ROUNDS }, (_, round) => {
      const order = shuffled(rows.length, seed + 31 * index + round);
      const changed = rows.map((row, place) => ({ ...row, [column]: rows[order[place]!]![column]! }));
      return sign * (before - figure(predictAll(model, task, changed)));
    });
    found.push({ column, worse: losses.reduce((sum, each) => sum + each, 0) / ROUNDS, least: Math.min(...losses), most: Math.max(...losses) });
    await breathe();
  }
  return found.sort((left, right) => right.worse - left.worse);
}
