import type { Matrix } from "../../numeric/cholesky";

/**
 * Minimises 1/2 b'Ab - g'b + lasso * sum |b_j| + ridge / 2 * sum b_j^2 over all coefficients but the first (which is free of
 * penalties) by coordinate descent on the cross products alone.
 * Source: Friedman, Hastie and Tibshirani, "Regularization paths for generalized linear models via coordinate descent",
 * Journal of Statistical Software 33, 2010, section 2.2.
 * @param products A, summed over rows
 * @param target g, summed over rows
 * @returns the coefficients, or undefined when they did not settle
 */
export function coordinateDescent(
  products: Matrix,
  target: Float64Array,
  lasso: number,
  ridge: number,
  tolerance: number,
  mostSweeps = 100_000,
): Float64Array | undefined {
  const size = target.length;
  const coefficients = new Float64Array(size);
  // What is left of g - A b; kept up to date as coefficients move.
  const rest = Float64Array.from(target);
  for (let sweep = 0; sweep < mostSweeps; sweep += 1) {
    let moved = 0;
    for (let index = 0; index < size; index += 1) {
      const own = products[index]![index]!;
      if (own <= 0) continue;
      const before = coefficients[index]!;
      const pull = rest[index]! + own * before;
      const after =
        index === 0 ? pull / own : (Math.sign(pull) * Math.max(0, Math.abs(pull) - lasso)) / (own + ridge);
      if (after === before) continue;
      const step = after - before;
      const line = products[index]!;
      for (let other = 0; other < size; other += 1) rest[other]! -= step * line[other]!;
      coefficients[index] = after;
      moved = Math.max(moved, Math.abs(step));
    }
    if (moved <= tolerance) return coefficients;
  }
  return undefined;
}
