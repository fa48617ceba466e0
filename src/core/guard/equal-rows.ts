import type { Finding } from "../evaluate/judgement";
import { formatNumber, formatShare } from "../format/numbers";
import { HOLDOUT_PART, TRAINING_PART } from "../plan/split";
import { hidden } from "../sql/hidden";
import { quoteDouble, quoteIdentifier } from "../sql/quote";
import { DRAW_COLUMN, PART_COLUMN } from "../steps/step";

/** Share of holdout rows with an equal training row, beyond what chance gives, from which on the holdout is not apart. */
const TOO_EQUAL = 0.1;

/** What was counted of holdout rows: all, those that were looked at, and those of them that equal a training row. */
export interface EqualRows {
  readonly held: number;
  readonly looked: number;
  readonly equal: number;
}

const part = quoteIdentifier(PART_COLUMN);
const digest = hidden("digest");
const drawn = (share: number): string =>
  share < 1 ? ` AND ${quoteIdentifier(DRAW_COLUMN)} < ${quoteDouble(share)}` : "";

/**
 * Counts of {@link EqualRows} as SQL over a frame; holdout rows are held against all training rows by a hash of 64 bits.
 * @param share of the holdout rows that are looked at, drawn at random
 */
export function equalRowsSql(frame: string, features: readonly string[], share: number): string {
  const hash = `hash_record_extended(ROW(${features.map(quoteIdentifier).join(", ")}), 0) AS ${digest}`;
  const rows = (of: number, condition: string): string =>
    `SELECT ${hash} FROM ${frame} WHERE ${part} = ${of}${condition}`;
  return `WITH held AS MATERIALIZED (${rows(HOLDOUT_PART, drawn(share))}), training AS (SELECT DISTINCT ${digest} FROM (${rows(TRAINING_PART, "")}) AS learned WHERE ${digest} IN (SELECT ${digest} FROM held)) SELECT (SELECT count(*) FROM ${frame} WHERE ${part} = ${HOLDOUT_PART}) AS held, count(*) AS looked, count(training.${digest}) AS equal FROM held LEFT JOIN training USING (${digest})`;
}

/** How often two training rows agree in each feature, as SQL: a0, a1 and so on. @param share of the rows that are counted */
export function agreementsSql(frame: string, features: readonly string[], share: number): string {
  const names = features.map(quoteIdentifier);
  const agreements = names.map(
    (name, index) =>
      `(SELECT sum(n * (n - 1)) / nullif(sum(n) * (sum(n) - 1), 0) FROM (SELECT count(*)::double precision AS n FROM learned GROUP BY ${name}) AS g${index}) AS a${index}`,
  );
  return `WITH learned AS MATERIALIZED (SELECT ${names.join(", ")} FROM ${frame} WHERE ${part} = ${TRAINING_PART}${drawn(share)}) SELECT ${agreements.join(", ")}`;
}

/** Whether so many holdout rows have an equal among the training rows that it should be asked how many chance gives. */
export const manyEqual = ({ looked, equal }: EqualRows): boolean => looked > 0 && equal >= TOO_EQUAL * looked;

/**
 * Share of rows that would have an equal among the training rows if their features had nothing to do with each other: two
 * rows agree in a feature with the sum of its squared shares, in all with the product of these, and the number of equals
 * is about a Poisson number. Source: the birthday problem, Feller, An Introduction to Probability Theory, vol. 1, II.3.
 * @param agreements of each feature, how often two rows agree in it
 */
export const expectedEqual = (agreements: readonly number[], trainingRows: number): number =>
  1 - Math.exp(-trainingRows * agreements.reduce((product, agreement) => product * agreement, 1));

/**
 * Holdout rows that have an equal among the training rows, where they are more than chance gives.
 * @param expected share of the rows that chance alone gives
 */
export function equalRowsFinding(counted: EqualRows, expected: number): Finding | undefined {
  const { held, looked, equal } = counted;
  if (!manyEqual({ ...counted, equal: equal - expected * looked })) return undefined;
  const rows =
    looked < held
      ? `${formatNumber(looked)} holdout rows, drawn from ${formatNumber(held)},`
      : "the holdout rows";
  return {
    code: "equal_across_border",
    message: `${formatShare(equal / looked)} of ${rows} equal a training row in all features; by chance it would be ${formatShare(expected)}.`,
    hint: "If they repeat the same case, remove duplicates or hold out whole groups.",
  };
}
