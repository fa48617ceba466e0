import type { Task } from "../learn/task";
import type { Figures, MetricName } from "./metrics";

/** Sums over predictions whose actual values are known, by target kind; what a kind does not need is missing. */
export interface TruthSums {
  /** Rows with a prediction and its actual value. */
  readonly answered: number | null;
  /** Squared errors: of numbers, and of probabilities against 0 or 1. */
  readonly squares?: number | null | undefined;
  /** Absolute errors. */
  readonly errors?: number | null | undefined;
  /** Variance and mean of the actual values. */
  readonly variance?: number | null | undefined;
  readonly mean?: number | null | undefined;
  /** Rows that are predicted right. */
  readonly hits?: number | null | undefined;
  readonly positives?: number | null | undefined;
  /** Ranks of the probabilities of the positives; equal ones share their mean rank. */
  readonly places?: number | null | undefined;
  /** Negative logarithms of the probability given to what happened. */
  readonly surprise?: number | null | undefined;
}

/** Metrics that can be had from sums over days, by target. */
export function measuredMetrics(kind: Task["kind"]): readonly MetricName[] {
  switch (kind) {
    case "binary":
      return ["auc", "log_loss", "brier", "accuracy"];
    case "number":
      return ["rmse", "mae", "r_squared"];
    case "classes":
      return ["accuracy"];
  }
}

/** How the predictions of one version on one day turned out. */
export interface TruthDay {
  readonly version: number;
  /** As 2026-06-30. */
  readonly day: string;
  readonly predicted: number;
  readonly answered: number;
  /** Empty as long as no answer has arrived. */
  readonly figures: Figures;
  /** Mean and variance of the answers, for numbers: with these days can be put together. */
  readonly answers?: { readonly mean: number; readonly variance: number } | null;
}

/** Figures of sums. */
function figuresOf(sums: TruthSums, answered: number, kind: Task["kind"]): Figures {
  const mean = (name: keyof TruthSums): number => (sums[name] ?? 0) / answered;
  switch (kind) {
    case "number": {
      const variance = sums.variance ?? 0;
      return {
        rmse: Math.sqrt(mean("squares")),
        mae: mean("errors"),
        r_squared: variance > 0 ? 1 - mean("squares") / variance : null,
      };
    }
    case "classes":
      return { accuracy: mean("hits") };
    case "binary": {
      const positives = sums.positives ?? 0;
      const pairs = positives * (answered - positives);
      return {
        auc: pairs === 0 ? null : ((sums.places ?? 0) - (positives * (positives + 1)) / 2) / pairs,
        log_loss: mean("surprise"),
        brier: mean("squares"),
        accuracy: mean("hits"),
      };
    }
  }
}

/** Makes figures of sums over answered predictions. */
export function readTruth(
  sums: TruthSums,
  kind: Task["kind"],
): Pick<TruthDay, "answered" | "figures" | "answers"> {
  const answered = sums.answered ?? 0;
  if (answered === 0) return { answered, figures: {} };
  const figures = figuresOf(sums, answered, kind);
  if (kind !== "number") return { answered, figures };
  return { answered, figures, answers: { mean: sums.mean ?? 0, variance: sums.variance ?? 0 } };
}

/** Variance of the answers of several days, as if they were one: within the days, and between their means. */
function pooledVariance(days: readonly TruthDay[]): number | undefined {
  const known = days.filter((day) => day.answered > 0);
  if (known.some((day) => !day.answers)) return undefined;
  const total = known.reduce((sum, day) => sum + day.answered, 0);
  const mean = known.reduce((sum, day) => sum + day.answered * day.answers!.mean, 0) / total;
  return (
    known.reduce(
      (sum, day) => sum + day.answered * (day.answers!.variance + (day.answers!.mean - mean) ** 2),
      0,
    ) / total
  );
}

/**
 * Days of one version as one. Means, squares and R² are those of all their answers together; the AUC is the
 * mean of the days', weighted by answers. Days stored without the answers' variance have no R².
 */
export function summarise(days: readonly TruthDay[]): {
  readonly answered: number;
  readonly figures: Figures;
} {
  const answered = days.reduce((sum, day) => sum + day.answered, 0);
  const mean = (name: MetricName, of: (value: number) => number = (value) => value): number | undefined => {
    const known = days.filter((day) => typeof day.figures[name] === "number");
    const rows = known.reduce((sum, day) => sum + day.answered, 0);
    return rows === 0
      ? undefined
      : known.reduce((sum, day) => sum + day.answered * of(day.figures[name]!), 0) / rows;
  };
  const squares = mean("rmse", (value) => value ** 2);
  const variance = pooledVariance(days);
  const figures: Partial<Record<MetricName, number | null | undefined>> = {
    auc: mean("auc"),
    log_loss: mean("log_loss"),
    brier: mean("brier"),
    accuracy: mean("accuracy"),
    mae: mean("mae"),
    rmse: squares === undefined ? undefined : Math.sqrt(squares),
    r_squared:
      squares === undefined || variance === undefined || variance === 0 ? undefined : 1 - squares / variance,
  };
  return {
    answered,
    figures: Object.fromEntries(Object.entries(figures).filter(([, value]) => value !== undefined)),
  };
}
