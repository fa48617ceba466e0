import type { CompiledModel } from "../learn/compiled";
import type { Values } from "../learn/model-kind";
import { outputsOf, type Task } from "../learn/task";

/** How the mean prediction changes with one column, others as they are, and where the data lie. */
export interface Dependence {
  readonly column: string;
  readonly points: readonly {
    readonly at: number | string | null;
    readonly outputs: readonly number[];
    /** Rows at this category, or between this value and the next. */ readonly rows: number;
  }[];
}

const POINTS = 20;

/** Values at which a number column is looked at: evenly from its 1st to its 99th percentile. */
function numberPoints(values: readonly number[]): readonly number[] {
  const sorted = values.filter((value) => Number.isFinite(value)).sort((left, right) => left - right);
  const distinct = [...new Set(sorted)];
  if (distinct.length <= POINTS) return distinct;
  const [low, high] = [
    sorted[Math.floor(0.01 * (sorted.length - 1))]!,
    sorted[Math.ceil(0.99 * (sorted.length - 1))]!,
  ];
  if (low === high) return [low];
  return Array.from({ length: POINTS }, (_, index) => low + ((high - low) * index) / (POINTS - 1));
}

/**
 * Partial dependence. Source: Friedman, "Greedy function approximation: a gradient boosting machine", Annals of Statistics 29, 2001, 8.2.
 * @param rows a sample of rows over which predictions are averaged, values in the order of the model's columns
 */
export function dependence(
  model: CompiledModel,
  task: Task,
  rows: readonly Readonly<Values>[],
  column: string,
): Dependence {
  const place = model.columns.indexOf(column);
  const values = rows.map((row) => row[place] ?? null);
  const changed = rows.map((row) => [...row]);
  const isNumber = values.some((value) => typeof value === "number");
  const mean = (at: number | string | null): readonly number[] => {
    const sums = new Array<number>(outputsOf(task)).fill(0);
    for (const row of changed) {
      row[place] = at;
      model.predict(row).forEach((value, index) => {
        sums[index]! += value;
      });
    }
    return sums.map((sum) => sum / rows.length);
  };
  if (!isNumber) {
    const counts = new Map<string | null, number>();
    for (const value of values)
      counts.set(value as string | null, (counts.get(value as string | null) ?? 0) + 1);
    const often = [...counts].sort((left, right) => right[1] - left[1]).slice(0, POINTS);
    return { column, points: often.map(([at, count]) => ({ at, outputs: mean(at), rows: count })) };
  }
  const points = numberPoints(values.filter((value): value is number => typeof value === "number"));
  const within = (index: number): number =>
    values.filter(
      (value) =>
        typeof value === "number" &&
        value >= points[index]! &&
        (index === points.length - 1 || value < points[index + 1]!),
    ).length;
  return { column, points: points.map((at, index) => ({ at, outputs: mean(at), rows: within(index) })) };
}
