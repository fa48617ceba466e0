import { figureMaker } from "../evaluate/figures";
import { METRICS, type MetricName } from "../evaluate/metrics";
import type { CompiledModel, Values } from "../learn/compiled";
import { outputsOf, type Task } from "../learn/task";
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
export function predictAll(
  model: CompiledModel,
  task: Task,
  rows: readonly Readonly<Values>[],
): readonly Float64Array[] {
  const outputs = Array.from({ length: outputsOf(task) }, () => new Float64Array(rows.length));
  rows.forEach((row, place) =>
    model.predict(row).forEach((value, output) => {
      outputs[output]![place] = value;
    }),
  );
  return outputs;
}

/**
 * Permutation importance on rows the model has not seen. Source: Breiman, "Random forests", Machine Learning 45, 2001, section 10.
 * @param rows values in the order of the model's columns
 * @param most columns that are looked at, at the most
 * @param breathe called after each column
 */
export async function permutationImportance(
  model: CompiledModel,
  task: Task,
  rows: readonly Readonly<Values>[],
  answers: Float64Array,
  most: number,
  metric: MetricName,
  seed: number,
  breathe: () => Promise<void>,
): Promise<readonly Importance[]> {
  const figure = (of: readonly Readonly<Values>[]): number =>
    figureMaker(task.kind, { outputs: predictAll(model, task, of), answers })(undefined)[metric] ?? 0;
  const before = figure(rows);
  const sign = METRICS[metric].better === "high" ? 1 : -1;
  const found: Importance[] = [];
  const changed = rows.map((row) => [...row]);
  for (const [index, column] of model.columns.slice(0, most).entries()) {
    const losses = Array.from({ length: ROUNDS }, (_, round) => {
      shuffled(rows.length, seed + 31 * index + round).forEach((from, place) => {
        changed[place]![index] = rows[from]![index] ?? null;
      });
      return sign * (before - figure(changed));
    });
    rows.forEach((row, place) => {
      changed[place]![index] = row[index] ?? null;
    });
    found.push({
      column,
      worse: losses.reduce((sum, each) => sum + each, 0) / ROUNDS,
      least: Math.min(...losses),
      most: Math.max(...losses),
    });
    await breathe();
  }
  return found.sort((left, right) => right.worse - left.worse);
}
