import { METRICS, type MetricName } from "./metrics";

export type PromiseKept = "too early to say" | "as promised" | "worse than promised" | "better than promised";

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
    return "too early to say";
  const wider = Math.sqrt(1 + holdoutRows / answered);
  if (found < promised - (promised - bounds[0]) * wider)
    return METRICS[metric].better === "high" ? "worse than promised" : "better than promised";
  if (found > promised + (bounds[1] - promised) * wider)
    return METRICS[metric].better === "high" ? "better than promised" : "worse than promised";
  return "as promised";
}
