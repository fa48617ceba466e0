/** Coefficients of Lanczos' approximation of the gamma function, g = 7, n = 9. */
const LANCZOS = [
  0.99999999999980993, 676.5203681218851, -1259.1392167224028, 771.32342877765313, -176.61502916214059,
  12.507343278686905, -0.13857109526572012, 9.9843695780195716e-6, 1.5056327351493116e-7,
];

/**
 * Logarithm of the gamma function for x > 0, to about 1e-15 relative.
 * Source: Lanczos, "A precision approximation of the gamma function", SIAM Journal on Numerical Analysis B 1, 1964.
 */
export function logGamma(x: number): number {
  if (x < 0.5) return Math.log(Math.PI / Math.abs(Math.sin(Math.PI * x))) - logGamma(1 - x);
  const z = x - 1;
  const base = z + 7.5;
  const series = LANCZOS.slice(1).reduce((sum, term, index) => sum + term / (z + index + 1), LANCZOS[0]!);
  return 0.5 * Math.log(2 * Math.PI) + (z + 0.5) * Math.log(base) - base + Math.log(series);
}

/**
 * Regularised incomplete beta function I_x(a, b) by its continued fraction.
 * Source: Press et al., Numerical Recipes, 3rd ed., section 6.4 (modified Lentz).
 */
export function incompleteBeta(x: number, a: number, b: number): number {
  if (x <= 0) return 0;
  if (x >= 1) return 1;
  if (x > (a + 1) / (a + b + 2)) return 1 - incompleteBeta(1 - x, b, a);
  const front =
    Math.exp(logGamma(a + b) - logGamma(a) - logGamma(b) + a * Math.log(x) + b * Math.log1p(-x)) / a;
  const tiny = 1e-300;
  let c = 1;
  let d = 1 / Math.max(Math.abs(1 - ((a + b) * x) / (a + 1)), tiny);
  let fraction = d;
  for (let m = 1; m <= 400; m += 1) {
    for (const factor of [
      (m * (b - m) * x) / ((a + 2 * m - 1) * (a + 2 * m)),
      (-(a + m) * (a + b + m) * x) / ((a + 2 * m) * (a + 2 * m + 1)),
    ]) {
      d = 1 / (1 + factor * d || tiny);
      c = 1 + factor / c || tiny;
      fraction *= c * d;
    }
    if (Math.abs(c * d - 1) < 1e-16) break;
  }
  return front * fraction;
}

/** Probability that Student's t with so many degrees of freedom lies further from 0 than |t|, on either side. */
export const twoSidedStudent = (t: number, degrees: number): number =>
  incompleteBeta(degrees / (degrees + t * t), degrees / 2, 0.5);
