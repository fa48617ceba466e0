/**
 * A 32-bit hash of two 32-bit numbers, written so that SQL can compute the same with bigints: two rounds of xor with the
 * upper half and multiplication. Source of the multiplier: Wellons, "Prospecting for hash functions", 2018 (public domain).
 * @returns a whole number in [0, 2^32)
 */
export function mix(value: number, seed: number): number {
  let x = (value + Math.imul(seed, 0x9e3779b1)) >>> 0;
  x = Math.imul(x ^ (x >>> 16), MULTIPLIER) >>> 0;
  x = Math.imul(x ^ (x >>> 16), MULTIPLIER) >>> 0;
  return (x ^ (x >>> 16)) >>> 0;
}

export const MULTIPLIER = 0x045d9f3b;

/** What the seed adds in {@link mix}, as an unsigned number: for the SQL of the same hash. */
export const seedOffset = (seed: number): number => Math.imul(seed, 0x9e3779b1) >>> 0;

/** A number in [0, 1) from a counter and a seed: the same wherever and in whatever order it is asked for. */
export const uniform = (counter: number, seed: number): number => mix(counter >>> 0, seed >>> 0) / 4294967296;

/** A seed of 32 bits from a text or a number. */
export function seedOf(seed: string | number): number {
  let hash = 0x811c9dc5;
  for (const character of String(seed)) hash = Math.imul(hash ^ character.codePointAt(0)!, 0x01000193) >>> 0;
  return hash;
}

/** The numbers 0 to count - 1 in an order that depends on the seed alone (Fisher and Yates). */
export function shuffled(count: number, seed: number): number[] {
  const order = Array.from({ length: count }, (_, index) => index);
  for (let index = count - 1; index > 0; index -= 1) {
    const other = Math.floor(uniform(index, seed) * (index + 1));
    [order[index], order[other]] = [order[other]!, order[index]!];
  }
  return order;
}

/** Counts of a Poisson distribution with mean 1: how often a row is in a bootstrap sample. Thresholds of the uniform number. */
export const POISSON_THRESHOLDS: readonly number[] = (() => {
  const thresholds: number[] = [];
  let probability = Math.exp(-1);
  let total = 0;
  for (let count = 0; count < 9; count += 1) {
    total += probability;
    thresholds.push(total);
    probability /= count + 1;
  }
  return thresholds;
})();

/** How often a row with this uniform number is in the sample. */
export function poissonCount(value: number): number {
  let count = 0;
  while (count < POISSON_THRESHOLDS.length && value >= POISSON_THRESHOLDS[count]!) count += 1;
  return count;
}

/** The count by the upper sixteen bits of a random number: exact to one part in 65,536, and many times faster. */
const POISSON_TABLE = Uint8Array.from({ length: 65_536 }, (_, upper) => poissonCount((upper + 0.5) / 65_536));

/** Counts of many rows at once, by their numbers, as {@link poissonCount} has them. */
export function poissonCounts(numbers: ArrayLike<number>, seed: number): Uint8Array {
  const counts = new Uint8Array(numbers.length);
  const salt = seed >>> 0;
  for (let at = 0; at < counts.length; at += 1)
    counts[at] = POISSON_TABLE[mix(numbers[at]! >>> 0, salt) >>> 16]!;
  return counts;
}
