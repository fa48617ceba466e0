/**
 * Sums of doubles depend on the order in which they are taken; sums of whole numbers below 2^53 do not. Gradients are therefore
 * rounded to whole multiples of a power of two, chosen so that no sum can reach 2^53. Threads and engines then agree to the last bit.
 */

/** Rows may count up to so often in a bootstrap sample. */
const MOST_OFTEN = 16;

/** What values of at most this size are multiplied by before they are rounded. */
export function scaleFor(rows: number, largest: number): number {
  if (!(largest > 0) || !Number.isFinite(largest)) return 1;
  return 2 ** Math.floor(52 - Math.log2(Math.max(1, rows) * MOST_OFTEN * largest));
}

/** Replaces values by whole numbers: value times scale, rounded. */
export function truncate(values: Float64Array, scale: number): void {
  for (let index = 0; index < values.length; index += 1) values[index] = Math.floor(values[index]! * scale + 0.5);
}
