import { formatNumber } from "../format/numbers";
import { METRICS, type MetricName } from "./metrics";

/** When a version that a schedule trained goes into service by itself. */
export type RetrainingRule = "never" | "when_better" | "always";

/** A new version held against the one in service, on rows that neither has learned from. */
export interface Challenge {
  /** Number of the version that was in service. */
  readonly against: number;
  readonly metric: MetricName;
  /** Rows that both were asked about. */
  readonly rows: number;
  readonly challenger: number;
  readonly champion: number;
  /** By how much the new one is better (positive) or worse, whatever the direction of the metric, and the interval that holds it with 95 %. */
  readonly gain: number;
  readonly interval?: readonly [number, number];
  /** Why there is no interval, when there is none. */
  readonly noInterval?: string;
  readonly rule: RetrainingRule;
  readonly promoted: boolean;
  /** Why, in words. */
  readonly because: string;
}

/**
 * What a rule makes of a comparison.
 * @param gain better by this much, in the metric's own unit, positive for better
 * @param interval bounds that hold the gain with 95 %
 * @param margin the least gain that counts
 */
export function judgeChallenge(
  rule: RetrainingRule,
  {
    gain,
    interval,
    noInterval,
    metric,
    rows,
  }: Pick<Challenge, "gain" | "interval" | "noInterval" | "metric" | "rows">,
  margin: number,
): Pick<Challenge, "promoted" | "because"> {
  const bounds = interval
    ? `(95 %: ${formatNumber(interval[0])} to ${formatNumber(interval[1])})`
    : "(without an interval)";
  const found = `${METRICS[metric].title} ${gain >= 0 ? "better" : "worse"} by ${formatNumber(Math.abs(gain))} ${bounds} on ${formatNumber(rows)} rows that neither was trained on`;
  switch (rule) {
    case "never":
      return { promoted: false, because: `${found}; the rule leaves the decision to you.` };
    case "always":
      return { promoted: true, because: `${found}; the rule is to always use the newest.` };
    case "when_better":
      if (gain < margin)
        return {
          promoted: false,
          because: `${found}; that is less than the required ${margin} improvement.`,
        };
      if (!interval)
        return {
          promoted: false,
          because: `${found}; its significance is unknown, so you decide. ${noInterval ?? ""}`,
        };
      return interval[0] > 0
        ? {
            promoted: true,
            because: `${found}; required improvement: ${margin}, and the difference is significant.`,
          }
        : { promoted: false, because: `${found}; the difference is not significant.` };
  }
}
