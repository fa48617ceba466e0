import type { Figures, MetricName } from "@/core/evaluate/metrics";
import { promiseKept, shareBounds, type PromiseKept } from "@/core/evaluate/promise";
import { summarise } from "@/core/evaluate/truth";
import type { ModelSummary } from "@/store/models";
import type { TruthRow } from "@/store/truth";
import type { Point } from "../charts/series";

export interface TruthModel extends Pick<ModelSummary, "id" | "number" | "intervals"> {
  /** Metrics of the holdout at the threshold of each delivery. */
  readonly promised: Readonly<Record<string, Figures>>;
  readonly holdoutRows: number;
}

/** Days around each day of the line that smooths. */
export const HALF_WINDOW = 3;
const NOON_MILLISECONDS = 43_200_000;

const timeOf = (day: string): number => Date.parse(`${day}T00:00:00Z`);

/** A version's metric on its holdout for a delivery, with its 95 % interval. */
export function holdoutOf(
  { promised, intervals, holdoutRows }: TruthModel,
  delivery: string,
  metric: MetricName,
): { readonly value: number | null | undefined; readonly bounds: readonly [number, number] | undefined } {
  const value = promised[delivery]?.[metric];
  // The stored interval of the accuracy is for a threshold of 0.5.
  const bounds =
    metric === "accuracy" && typeof value === "number"
      ? shareBounds(value, holdoutRows)
      : intervals?.[metric];
  return { value, bounds };
}

/** Days that have the metric, as points that weigh by their actuals. */
export function dayPoints(days: readonly TruthRow[], metric: MetricName): Point[] {
  const most = Math.max(1, ...days.map(({ answered }) => answered));
  return days.flatMap(({ day, figures, answered }) => {
    const value = figures[metric];
    return typeof value === "number"
      ? [{ x: timeOf(day), y: value, weight: answered / most, note: `${answered} actuals` }]
      : [];
  });
}

/** The metric of the days around each day, taken together. */
export function smoothPoints(days: readonly TruthRow[], metric: MetricName): Point[] {
  return days.flatMap(({ day }, index) => {
    const near = days.slice(Math.max(0, index - HALF_WINDOW), index + HALF_WINDOW + 1);
    const { figures } = summarise(near.map((one) => ({ ...one, version: one.modelId })));
    const value = figures[metric];
    return typeof value === "number" ? [{ x: timeOf(day), y: value }] : [];
  });
}

/** From the first day to the last, with half a day on both sides. */
export function daysDomain(days: readonly TruthRow[]): readonly [number, number] {
  const times = days.map(({ day }) => timeOf(day));
  return [Math.min(...times) - NOON_MILLISECONDS, Math.max(...times) + NOON_MILLISECONDS];
}

export interface TruthSummary {
  readonly predicted: number;
  readonly answered: number;
  readonly found: number | null | undefined;
  readonly holdout: number | null | undefined;
  readonly bounds: readonly [number, number] | undefined;
  readonly verdict: PromiseKept;
}

/** All days of a version taken together, compared with its holdout. */
export function summariseVersion(
  days: readonly TruthRow[],
  version: TruthModel,
  delivery: string,
  metric: MetricName,
): TruthSummary {
  const { answered, figures } = summarise(days.map((day) => ({ ...day, version: version.number })));
  const { value: holdout, bounds } = holdoutOf(version, delivery, metric);
  const predicted = days.reduce((sum, day) => sum + day.predicted, 0);
  const found = figures[metric];
  const verdict = promiseKept({
    metric,
    found,
    predicted,
    answered,
    promised: holdout,
    bounds,
    holdoutRows: version.holdoutRows,
  });
  return { predicted, answered, found, holdout, bounds, verdict };
}
