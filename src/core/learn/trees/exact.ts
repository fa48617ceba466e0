import type { TreeLoss } from "./tree-questions";

/**
 * Sums of doubles depend on the order in which they are taken; sums of whole numbers do not. Gradients are therefore rounded to
 * whole multiples of a power of two, chosen so that no sum can reach 2^53. Threads and engines then agree to the last bit.
 */

/** Rows may count up to so often in a bootstrap sample. */
const MOST_OFTEN = 16;

/** What values of at most this size are multiplied by before they are rounded. */
export function gradientScale(rows: number, largest: number): number {
  if (!(largest > 0) || !Number.isFinite(largest)) return 1;
  return 2 ** Math.floor(52 - Math.log2(Math.max(1, rows) * MOST_OFTEN * largest));
}

/** Bits that a number of rows needs. */
export const bitsOf = (rows: number): number => Math.floor(Math.log2(Math.max(1, rows))) + 1;

/** The largest curvature of one row of weight 1, times how often it may count. */
const MOST_CURVATURE: Readonly<Record<TreeLoss, number>> = {
  squared: MOST_OFTEN,
  gini: MOST_OFTEN,
  absolute: 1,
  logistic: 0.25,
  softmax: 0.5,
};

/** The same for curvatures. Their sum and a count of rows share 64 bits, the sign apart. @param total weight of all rows */
export function curvatureScale(rows: number, total: number, loss: TreeLoss): number {
  if (!(total > 0) || !Number.isFinite(total)) return 1;
  return 2 ** Math.floor(Math.min(52, 62 - bitsOf(rows)) - Math.log2(total * MOST_CURVATURE[loss]));
}
