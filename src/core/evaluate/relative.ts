import { figureMaker, type ScoredRows } from "./figures";
import { METRICS, type Figures, type MetricName } from "./metrics";
import type { Task } from "../learn/task";

/**
 * The same rows, each predicted to be as all of them are together: the mean answer, or the share of each class. What a
 * model is better by than this is what it knows; the rest is how hard the rows are.
 */
export function ownBase(kind: Task["kind"], rows: ScoredRows): ScoredRows {
  const weight = (row: number): number => (rows.weights === undefined ? 1 : rows.weights[row]!);
  const total = rows.answers.reduce((sum, _, row) => sum + weight(row), 0);
  const mean = (value: (answer: number) => number): number =>
    rows.answers.reduce((sum, answer, row) => sum + weight(row) * value(answer), 0) / total;
  const fill = (value: number): Float64Array => new Float64Array(rows.answers.length).fill(value);
  if (kind !== "classes") return { ...rows, outputs: [fill(mean((answer) => answer))] };
  return {
    ...rows,
    outputs: rows.outputs.map((_, code) => fill(mean((answer) => (answer === code ? 1 : 0)))),
  };
}

/** A figure measured against that of {@link ownBase}: errors as a share of its errors, shares as a part of what was left to gain. */
export function relativeFigure(
  metric: MetricName,
  figure: number | null | undefined,
  base: number | null | undefined,
): number | null {
  if (typeof figure !== "number") return null;
  switch (metric) {
    case "log_loss":
    case "brier":
    case "rmse":
    case "mae":
    case "median_error":
      return typeof base === "number" && base > 0 ? figure / base : null;
    case "accuracy":
    case "average_precision":
      return typeof base === "number" && base < 1 ? (figure - base) / (1 - base) : null;
    case "auc":
    case "ks":
    case "macro_f1":
    case "r_squared":
    case "percentage_error":
      return figure;
  }
}

/** Figures of a model against those of the rows' own base. */
export function relativeFigures(kind: Task["kind"], rows: ScoredRows): Figures {
  const figures = figureMaker(kind, rows)(undefined);
  const base = figureMaker(kind, ownBase(kind, rows))(undefined);
  return Object.fromEntries(
    (Object.keys(figures) as MetricName[]).map((name) => [
      name,
      relativeFigure(name, figures[name], base[name]),
    ]),
  );
}

/** Whether an interval lies wholly on the worse side of a value. */
export function isWorse(
  metric: MetricName,
  interval: readonly [number, number] | undefined,
  than: number | null | undefined,
): boolean {
  if (!interval || typeof than !== "number") return false;
  return METRICS[metric].better === "high" ? interval[1] < than : interval[0] > than;
}
