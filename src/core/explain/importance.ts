import { figureMaker } from "../evaluate/figures";
import { METRICS, type MetricName } from "../evaluate/metrics";
import type { CompiledModel } from "../learn/compiled";
import type { Values } from "../learn/model-kind";
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
export const ROUNDS = 3;

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

/** What importance is measured on. */
export interface ImportanceRows {
  readonly task: Task;
  /** Values in the order of the model's columns, of rows that the model has not seen. */
  readonly rows: readonly Readonly<Values>[];
  readonly answers: Float64Array;
  readonly metric: MetricName;
  readonly seed: number;
}

/** Rows on which it is found out cheaply which columns move predictions at all. */
const SCREEN_ROWS = 120;

/** Asked after each column: whether to go on. It lets other work through, and may throw to end everything. */
export type GoOn = () => Promise<boolean>;

/**
 * The columns whose shuffling moves the predictions most, the first of them first: predictions change with every column that a
 * model reads, long before its loss does, so that one round on few rows tells.
 * @param most how many, at the most
 * @returns their places among the model's columns; columns that were not looked at before the time was over come last
 */
export async function mostInfluential(
  model: CompiledModel,
  { task, rows: all, seed }: ImportanceRows,
  most: number,
  goOn: GoOn,
): Promise<readonly number[]> {
  const places = [...model.columns.keys()];
  const rows = all.slice(0, SCREEN_ROWS);
  const before = predictAll(model, task, rows);
  const changed = rows.map((row) => [...row]);
  const moved = places.map(() => 0);
  for (const index of places) {
    shuffled(rows.length, seed + 17 * index).forEach((from, place) => {
      changed[place]![index] = rows[from]![index] ?? null;
    });
    const after = predictAll(model, task, changed);
    moved[index] = before.reduce(
      (sum, output, at) =>
        sum + output.reduce((part, value, row) => part + Math.abs(value - after[at]![row]!), 0),
      0,
    );
    rows.forEach((row, place) => {
      changed[place]![index] = row[index] ?? null;
    });
    if (!(await goOn())) break;
  }
  return places.sort((left, right) => moved[right]! - moved[left]! || left - right).slice(0, most);
}

/**
 * Permutation importance on rows the model has not seen. Source: Breiman, "Random forests", Machine Learning 45, 2001, section 10.
 * @param places the columns that are looked at, by their places among the model's
 * @returns the columns that were measured before the time was over, the one that matters most first
 */
export async function permutationImportance(
  model: CompiledModel,
  { task, rows, answers, metric, seed }: ImportanceRows,
  places: readonly number[],
  goOn: GoOn,
): Promise<readonly Importance[]> {
  const figure = (of: readonly Readonly<Values>[]): number =>
    figureMaker(task.kind, { outputs: predictAll(model, task, of), answers })(undefined)[metric] ?? 0;
  const before = figure(rows);
  const sign = METRICS[metric].better === "high" ? 1 : -1;
  const found: Importance[] = [];
  const changed = rows.map((row) => [...row]);
  for (const index of places) {
    const column = model.columns[index]!;
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
      worse: losses.reduce((sum, loss) => sum + loss, 0) / ROUNDS,
      least: Math.min(...losses),
      most: Math.max(...losses),
    });
    if (!(await goOn())) break;
  }
  return found.sort((left, right) => right.worse - left.worse);
}
