/** Rows whose quantiles decide where a column of many values is cut. */
export const CUT_ROWS = 100_000;

/** A point between two neighbours, also where one of them is infinite. */
function between(low: number, high: number): number {
  if (low === -Infinity) return high;
  if (high < Infinity) return low + (high - low) / 2;
  return Math.min(low > 0 ? low * 2 + 1 : low / 2 + 1, Number.MAX_VALUE);
}

/** Points halfway between neighbours of an ascending list of distinct values. */
export function halfway(values: ArrayLike<number>): Float64Array {
  const finite = Array.from(values).filter((value) => !Number.isNaN(value));
  const cuts: number[] = [];
  for (let index = 1; index < finite.length; index += 1) {
    const [low, high] = [finite[index - 1]!, finite[index]!];
    const middle = between(low, high);
    // Neighbouring doubles have nothing between them: the upper one is then the first to go right.
    cuts.push(middle > low ? middle : high);
  }
  return Float64Array.from(cuts);
}

/** Shares at which rows are parted into so many parts. */
export const partingShares = (parts: number): readonly number[] =>
  Array.from({ length: parts - 1 }, (_, index) => (index + 1) / parts);

/** Ranks (as shares, ascending) at which a column with many values is cut into `bins` bins. */
export const quantileShares = (bins: number): readonly number[] =>
  Array.from({ length: bins - 1 }, (_, index) => (index + 1) / bins);

/** Distinct quantiles become cuts: values below the quantile go left of it. A cut at infinity would leave nothing to its right. */
export function quantileCuts(quantiles: readonly number[], smallest: number): Float64Array {
  return Float64Array.from(
    [...new Set(quantiles)]
      .filter((value) => value > smallest && value < Infinity)
      .sort((left, right) => left - right),
  );
}

/** The smallest value at which a share of the ascending values is reached, as PostgreSQL's percentile_disc gives it. */
export function discreteQuantile(sorted: Float64Array, share: number): number {
  return sorted[Math.max(0, Math.ceil(share * sorted.length) - 1)]!;
}
