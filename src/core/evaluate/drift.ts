import { partNames, type ColumnSpread } from "./spread";

/** How far a column is from what it was in training. */
export interface Drift {
  readonly column: string;
  /** Population stability index; 0 is no change. */
  readonly psi: number;
  /** Largest distance between the cumulated shares; numbers only. */
  readonly ks: number | null;
  /** Shares of missing values, then and now. */
  readonly missing: readonly [number, number];
  /** Shares of every part, then and now. What training never saw is one part, "never seen". */
  readonly parts: readonly { readonly name: string; readonly before: number; readonly now: number }[];
}

type Counts = Pick<ColumnSpread, "counts" | "missing">;

/** Below this a share counts as this much, so that an empty part is far from, but not infinitely far from, a full one. */
const LEAST_SHARE = 0.0005;

/** From these on people speak of some change, and of much. Source: the usual reading of the index in credit scoring (Siddiqi, Credit Risk Scorecards, 2006, chapter 8). */
export const SOME_DRIFT = 0.1;
export const MUCH_DRIFT = 0.25;

const NEVER_SEEN = "unseen";

/** Parts that training saw, and all others as one. */
function sharesOf(before: ColumnSpread, now: Counts, rowsBefore: number, rowsNow: number): Drift["parts"] {
  const names = partNames(before);
  const seen = before.counts.flatMap((count, part) =>
    count > 0
      ? [{ name: names[part] ?? "", before: count / rowsBefore, now: (now.counts[part] ?? 0) / rowsNow }]
      : [],
  );
  const unseen = before.counts.reduce(
    (sum, count, part) => (count > 0 ? sum : sum + (now.counts[part] ?? 0)),
    0,
  );
  return unseen > 0 ? [...seen, { name: NEVER_SEEN, before: 0, now: unseen / rowsNow }] : seen;
}

/** The distance of Kolmogorov and Smirnov over the parts, in their order. */
function distanceOf(before: ColumnSpread, now: Counts, presentBefore: number, presentNow: number): number {
  if (presentBefore <= 0 || presentNow <= 0) return 0;
  let [left, right, most] = [0, 0, 0];
  before.counts.forEach((count, part) => {
    left += count / presentBefore;
    right += (now.counts[part] ?? 0) / presentNow;
    most = Math.max(most, Math.abs(left - right));
  });
  return most;
}

/**
 * Compares the spread of a column with what it was: sum of (q - p) ln(q / p) over parts, the missing values one of them and
 * the values that training never saw another; and the distance of Kolmogorov and Smirnov over the parts. Undefined when
 * either has no rows.
 */
export function driftOf(before: ColumnSpread, now: Counts): Drift | undefined {
  const total = (spread: Counts): number => spread.counts.reduce((sum, count) => sum + count, spread.missing);
  const [rowsBefore, rowsNow] = [total(before), total(now)];
  if (rowsBefore === 0 || rowsNow === 0) return undefined;
  const missing: Drift["missing"] = [before.missing / rowsBefore, now.missing / rowsNow];
  const parts = sharesOf(before, now, rowsBefore, rowsNow);
  const psi = [...parts.map((part) => [part.before, part.now] as const), missing].reduce((sum, [p, q]) => {
    const [left, right] = [Math.max(p, LEAST_SHARE), Math.max(q, LEAST_SHARE)];
    return sum + (right - left) * Math.log(right / left);
  }, 0);
  return {
    column: before.column,
    psi,
    ks:
      before.kind === "number"
        ? distanceOf(before, now, rowsBefore - before.missing, rowsNow - now.missing)
        : null,
    missing,
    parts,
  };
}
