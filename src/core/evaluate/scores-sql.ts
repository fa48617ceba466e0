import { quoteIdentifier } from "../sql/quote";

/** A table of judged rows of yes and no. Counts are taken in the warehouse: what comes out are a thousand numbers, whatever the number of rows. */
export interface ScoredTable {
  /** Quoted table name. */
  readonly table: string;
  /** Column with the probability, 0 to 1. */
  readonly score: string;
  /** Column with the answer, 1 or 0. */
  readonly answer: string;
}

/** Thresholds at which counts are taken: 0, 0.001, ..., 1. A dragged threshold moves in these steps, so its counts are exact. */
export const THRESHOLD_STEPS = 1000;

/**
 * How many rows of each class fall between neighbouring thresholds: (bucket, positives, negatives).
 * Bucket b holds scores from b / steps up to, not including, (b + 1) / steps; a score of 1 is in the last bucket.
 */
export function bucketsSql(scored: ScoredTable): string {
  const thresholds = Array.from({ length: THRESHOLD_STEPS + 1 }, (_, index) =>
    String(index / THRESHOLD_STEPS),
  ).join(",");
  const answer = quoteIdentifier(scored.answer);
  return `SELECT width_bucket(${quoteIdentifier(scored.score)}, ARRAY[${thresholds}]::double precision[]) - 1 AS bucket, sum(${answer})::double precision AS positives, sum(1 - ${answer})::double precision AS negatives FROM ${scored.table} GROUP BY 1 ORDER BY 1`;
}
