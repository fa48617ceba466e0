/** A symmetric matrix as rows of equal length. */
export type Matrix = readonly Float64Array[];

export const zeros = (size: number): Float64Array[] =>
  Array.from({ length: size }, () => new Float64Array(size));

export type Factorisation =
  | { readonly kind: "factor"; readonly lower: Matrix }
  /** Row `index` is, up to rounding, `combination` of the rows before it: the matrix is singular. */
  | { readonly kind: "dependent"; readonly index: number; readonly combination: Float64Array };

/**
 * Cholesky factor L of a symmetric positive definite matrix A = L Lᵀ, row by row.
 * A pivot below `tolerance` times its diagonal element names a column that depends linearly on earlier ones.
 * Source: Golub and Van Loan, Matrix Computations, 4th ed., section 4.2.
 */
export function cholesky(matrix: Matrix, tolerance = 1e-11): Factorisation {
  const size = matrix.length;
  const lower = zeros(size);
  for (let i = 0; i < size; i += 1) {
    const row = lower[i]!;
    const source = matrix[i]!;
    for (let j = 0; j <= i; j += 1) {
      const other = lower[j]!;
      let value = source[j]!;
      for (let k = 0; k < j; k += 1) value -= row[k]! * other[k]!;
      if (j < i) {
        row[j] = value / other[j]!;
      } else if (value > tolerance * Math.abs(source[i]!) && value > 0) {
        row[i] = Math.sqrt(value);
      } else {
        return { kind: "dependent", index: i, combination: backwardSolve(lower, row, i) };
      }
    }
  }
  return { kind: "factor", lower };
}

/** Solves L y = b. */
export function forwardSolve(lower: Matrix, right: ArrayLike<number>): Float64Array {
  const size = lower.length;
  const result = new Float64Array(size);
  for (let i = 0; i < size; i += 1) {
    const row = lower[i]!;
    let value = right[i]!;
    for (let k = 0; k < i; k += 1) value -= row[k]! * result[k]!;
    result[i] = value / row[i]!;
  }
  return result;
}

/** Solves Lᵀ x = y for the leading `size` rows of L. */
export function backwardSolve(lower: Matrix, right: ArrayLike<number>, size = lower.length): Float64Array {
  const result = new Float64Array(size);
  for (let i = size - 1; i >= 0; i -= 1) {
    let value = right[i]!;
    for (let k = i + 1; k < size; k += 1) value -= lower[k]![i]! * result[k]!;
    result[i] = value / lower[i]![i]!;
  }
  return result;
}

/** Solves A x = b, given A's Cholesky factor. */
export const solve = (lower: Matrix, right: ArrayLike<number>): Float64Array =>
  backwardSolve(lower, forwardSolve(lower, right));

/** Inverse of A, given its Cholesky factor: the covariance, when A is an information matrix. */
export function inverse(lower: Matrix): Matrix {
  const size = lower.length;
  const columns = Array.from({ length: size }, (_, index) => {
    const unit = new Float64Array(size);
    unit[index] = 1;
    return solve(lower, unit);
  });
  return columns;
}
