import { METRICS, type Figures, type MetricName } from "./metrics";
import { confusionAt, curveConfusions, type ScoreCurve } from "./score-curve";
import { ratesOf } from "./threshold";

export type PromiseKept = "too few actuals" | "as on holdout" | "worse than holdout" | "better than holdout";

export interface PromiseAsked {
  readonly metric: MetricName;
  /** The figure of past predictions whose answers are there. */
  readonly found: number | null | undefined;
  readonly predicted: number;
  readonly answered: number;
  /** The figure on the holdout, the bounds that hold it with 95 %, and its rows. */
  readonly promised: number | null | undefined;
  readonly bounds: readonly [number, number] | undefined;
  readonly holdoutRows: number;
}

/** Answers that come early are not like the others; before so many are there nothing is said. */
const LEAST_SHARE = 0.5;

/**
 * Whether past predictions did as well as the holdout promised. Both are measured on samples: the standard error of a mean goes with
 * one over the root of its rows, so the holdout's bounds, w away from the promise, become w √(1 + holdout rows / answers) for their difference
 * (variances of independent samples add).
 */
export function promiseKept({
  metric,
  found,
  predicted,
  answered,
  promised,
  bounds,
  holdoutRows,
}: PromiseAsked): PromiseKept {
  if (
    typeof found !== "number" ||
    typeof promised !== "number" ||
    bounds === undefined ||
    answered < LEAST_SHARE * predicted
  )
    return "too few actuals";
  const wider = Math.sqrt(1 + holdoutRows / answered);
  if (found < promised - (promised - bounds[0]) * wider)
    return METRICS[metric].better === "high" ? "worse than holdout" : "better than holdout";
  if (found > promised + (bounds[1] - promised) * wider)
    return METRICS[metric].better === "high" ? "better than holdout" : "worse than holdout";
  return "as on holdout";
}

/** What a version's holdout says of itself. */
export interface Promised {
  readonly metrics: Figures;
  /** With every row counting once, where `metrics` are weighted: live predictions count once. */
  readonly unweighted?: Figures | undefined;
  /** Curve of the same rows, each counting once. */
  readonly curve?: ScoreCurve | undefined;
}

/** Figures that the holdout promises for a delivery: what depends on a threshold at the delivery's own. */
export function promisedFigures({ metrics, unweighted, curve }: Promised, threshold: number): Figures {
  const figures = unweighted ?? metrics;
  if (!curve) return figures;
  return { ...figures, accuracy: ratesOf(confusionAt(curveConfusions(curve), threshold)).accuracy };
}

/**
 * Bounds that hold a promised share of rows with 95 %, by the normal approximation of the binomial distribution.
 * Source: Agresti, Categorical Data Analysis, 3rd ed., section 1.4.1.
 */
export function shareBounds(share: number, rows: number): readonly [number, number] {
  const half = 1.96 * Math.sqrt((share * (1 - share)) / Math.max(1, rows));
  return [Math.max(0, share - half), Math.min(1, share + half)];
}
