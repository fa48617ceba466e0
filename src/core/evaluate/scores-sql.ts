import { quoteIdentifier } from "../sql/quote";

/**
 * Metrics of binary scores as SQL over a table with one row per judged row. Everything is computed in the warehouse;
 * what comes out are a few hundred numbers, whatever the number of rows.
 */
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

/** Probabilities are kept this far from 0 and 1 in the log loss, so that one sure mistake does not make it infinite. */
const LOG_LOSS_BOUND = 1e-15;

/**
 * AUC, average precision, Kolmogorov-Smirnov distance, log loss, Brier score, rows and positives, as one row.
 *
 * AUC counts pairs, ties as half (Mann and Whitney, Annals of Mathematical Statistics 18, 1947); average precision
 * is the sum over thresholds of recall gained times precision, no interpolation; Brier is the mean squared error of
 * the probability (Brier, Monthly Weather Review 78, 1950).
 */
export function metricsSql(scored: ScoredTable): string {
  const score = quoteIdentifier(scored.score);
  const answer = quoteIdentifier(scored.answer);
  const bounded = `greatest(${LOG_LOSS_BOUND}, least(1 - ${LOG_LOSS_BOUND}, ${score}))`;
  return `WITH "by score" AS (
SELECT ${score} AS p, sum(${answer})::double precision AS positives, sum(1 - ${answer})::double precision AS negatives FROM ${scored.table} GROUP BY 1
), "cumulative" AS (
SELECT p, positives, negatives, sum(positives) OVER (ORDER BY p DESC) AS tp, sum(negatives) OVER (ORDER BY p DESC) AS fp FROM "by score"
), "totals" AS (
SELECT sum(positives) AS all_positive, sum(negatives) AS all_negative FROM "by score"
), "ranked" AS (
SELECT sum(negatives * (tp - positives / 2)) / nullif(max(all_positive * all_negative), 0) AS auc, sum(positives * tp / (tp + fp)) / nullif(max(all_positive), 0) AS average_precision, max(abs(tp / nullif(all_positive, 0) - fp / nullif(all_negative, 0))) AS ks, max(all_positive) AS positives, max(all_positive + all_negative) AS rows FROM "cumulative" CROSS JOIN "totals"
)
SELECT "ranked".*, "pointwise".* FROM "ranked" CROSS JOIN (
SELECT avg(CASE WHEN ${answer} = 1 THEN -ln(${bounded}) ELSE -ln(1 - ${bounded}) END) AS log_loss, avg((${score} - ${answer}) * (${score} - ${answer})) AS brier FROM ${scored.table}
) AS "pointwise"`;
}

/**
 * How many rows of each class fall between neighbouring thresholds: (bucket, positives, negatives).
 * Bucket b holds scores from b / steps up to, not including, (b + 1) / steps; a score of 1 is in the last bucket.
 */
export function bucketsSql(scored: ScoredTable): string {
  const thresholds = Array.from({ length: THRESHOLD_STEPS + 1 }, (_, index) => String(index / THRESHOLD_STEPS)).join(",");
  const answer = quoteIdentifier(scored.answer);
  return `SELECT width_bucket(${quoteIdentifier(scored.score)}, ARRAY[${thresholds}]::double precision[]) - 1 AS bucket, sum(${answer})::double precision AS positives, sum(1 - ${answer})::double precision AS negatives FROM ${scored.table} GROUP BY 1 ORDER BY 1`;
}
