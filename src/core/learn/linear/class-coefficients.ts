/**
 * Coefficients of several classes. The solver works with differences from the first class, one vector for each other
 * class, one after the other; people and the penalty see a vector for every class, and these sum to zero.
 */

/** The mean over all classes of each coefficient, the first class's being zero. */
function meansOverClasses(differences: Float64Array, size: number): Float64Array {
  const classes = differences.length / size + 1;
  const means = new Float64Array(size);
  differences.forEach((value, index) => {
    means[index % size]! += value / classes;
  });
  return means;
}

/**
 * Vectors for every class that sum to zero and have the given differences: of all that predict the same, these have
 * the smallest sum of squares.
 * @param size coefficients of a class
 */
export function centreClasses(differences: Float64Array, size: number): readonly Float64Array[] {
  const means = meansOverClasses(differences, size);
  return [
    means.map((mean) => -mean),
    ...Array.from({ length: differences.length / size }, (_, output) =>
      means.map((mean, index) => differences[output * size + index]! - mean),
    ),
  ];
}

/**
 * A ridge on the coefficients of every class alike, the intercepts free, so that no class is special: penalty / 2 times
 * the sum of squares of the centred coefficients.
 * Source: Friedman, Hastie and Tibshirani, "Regularization paths for generalized linear models via coordinate descent",
 * Journal of Statistical Software 33, 2010, section 4.
 * @returns loss and gradient with the penalty added, as functions of the differences
 */
export function addClassPenalty(
  slope: { readonly loss: number; readonly gradient: Float64Array },
  differences: Float64Array,
  size: number,
  penalty: number,
): { readonly loss: number; readonly gradient: Float64Array } {
  let { loss } = slope;
  for (const coefficients of centreClasses(differences, size))
    for (let index = 1; index < size; index += 1) loss += (penalty / 2) * coefficients[index]! ** 2;
  const means = meansOverClasses(differences, size);
  const gradient = slope.gradient.map((value, index) =>
    index % size === 0 ? value : value + penalty * (differences[index]! - means[index % size]!),
  );
  return { loss, gradient };
}
