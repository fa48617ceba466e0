import { formatNumber } from "../format/numbers";
import { z } from "zod";

/** How one column was spread in training: numbers over tenths, categories over their most frequent levels. */
export const columnSpreadSchema = z.object({
  column: z.string(),
  kind: z.enum(["number", "category"]),
  /** Numbers: ascending; a value below the first is in part 0, one from the last on in the last. */
  edges: z.array(z.number()),
  /** Categories: the levels of parts 0 and so on; the last part is every other. */
  levels: z.array(z.string()),
  /** Rows by part. */
  counts: z.array(z.number()),
  missing: z.number(),
});
export type ColumnSpread = z.infer<typeof columnSpreadSchema>;

/** How far a column is from what it was in training. */
export interface Drift {
  readonly column: string;
  /** Population stability index; 0 is no change. */
  readonly psi: number;
  /** Largest distance between the cumulated shares; numbers only. */
  readonly ks: number | null;
  /** Shares of missing values, then and now. */
  readonly missing: readonly [number, number];
  /** Shares of every part, then and now. */
  readonly parts: readonly { readonly name: string; readonly before: number; readonly now: number }[];
}

/** Below this a share counts as this much, so that an empty part is far from, but not infinitely far from, a full one. */
const LEAST_SHARE = 0.0005;

/** From these on people speak of some change, and of much. Source: the usual reading of the index in credit scoring (Siddiqi, Credit Risk Scorecards, 2006, chapter 8). */
export const SOME_DRIFT = 0.1;
export const MUCH_DRIFT = 0.25;

/** What the parts of a column are called. */
function partNames({
  kind,
  edges,
  levels,
}: Pick<ColumnSpread, "kind" | "edges" | "levels">): readonly string[] {
  if (kind === "category") return [...levels, "others"];

  return edges.length === 0
    ? ["all"]
    : [
        `below ${formatNumber(edges[0]!)}`,
        ...edges.slice(1).map((edge, index) => `${formatNumber(edges[index]!)} to ${formatNumber(edge)}`),
        `from ${formatNumber(edges.at(-1)!)}`,
      ];
}

/**
 * Compares the spread of a column with what it was: sum of (q - p) ln(q / p) over parts, the missing values one of them; and the
 * distance of Kolmogorov and Smirnov over the parts. Undefined when either has no rows.
 */
export function driftOf(
  before: ColumnSpread,
  now: Pick<ColumnSpread, "counts" | "missing">,
): Drift | undefined {
  const total = (spread: Pick<ColumnSpread, "counts" | "missing">): number =>
    spread.counts.reduce((sum, each) => sum + each, spread.missing);
  const [rowsBefore, rowsNow] = [total(before), total(now)];
  if (rowsBefore === 0 || rowsNow === 0) return undefined;
  const pairs = [
    ...before.counts.map((each, part) => [each / rowsBefore, (now.counts[part] ?? 0) / rowsNow] as const),
    [before.missing / rowsBefore, now.missing / rowsNow] as const,
  ];
  const psi = pairs.reduce((sum, [p, q]) => {
    const [left, right] = [Math.max(p, LEAST_SHARE), Math.max(q, LEAST_SHARE)];
    return sum + (right - left) * Math.log(right / left);
  }, 0);
  let [left, right, most] = [0, 0, 0];
  const [presentBefore, presentNow] = [rowsBefore - before.missing, rowsNow - now.missing];
  if (presentBefore > 0 && presentNow > 0) {
    before.counts.forEach((each, part) => {
      left += each / presentBefore;
      right += (now.counts[part] ?? 0) / presentNow;
      most = Math.max(most, Math.abs(left - right));
    });
  }
  const names = partNames(before);
  return {
    column: before.column,
    psi,
    ks: before.kind === "number" ? most : null,
    missing: [before.missing / rowsBefore, now.missing / rowsNow],
    parts: before.counts.map((each, part) => ({
      name: names[part] ?? "",
      before: each / rowsBefore,
      now: (now.counts[part] ?? 0) / rowsNow,
    })),
  };
}
