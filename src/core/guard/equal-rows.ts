import type { Finding } from "../evaluate/judgement";
import { formatNumber, formatShare } from "../format/numbers";

/** Share of holdout rows with an equal training row, beyond what chance gives, from which on the holdout is not apart. */
const TOO_EQUAL = 0.1;

/** What was counted of holdout rows: all, those that were looked at, and those of them that equal a training row. */
export interface EqualRows {
  readonly held: number;
  readonly looked: number;
  readonly equal: number;
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
