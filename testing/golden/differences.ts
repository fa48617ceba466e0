/** Sums of doubles may be added in another order; relative to the larger of two values. */
export const OF_SUMS = 1e-12;
/** What is iterated to from such sums; also absolute, for coefficients that ought to be zero. */
export const OF_ITERATIONS = 1e-9;

/** A number with a fraction, as text. Whole numbers are counts or codes and must be equal. */
const FRACTION = /^-?\d+(\.\d+(e[+-]?\d+)?|e[+-]?\d+)$/;

const isFraction = (value: unknown): boolean =>
  typeof value === "number" ? !Number.isInteger(value) : typeof value === "string" && FRACTION.test(value);

/** Doubles have a negative zero; no step guarantees to keep its sign. */
const isZero = (value: unknown): boolean => value === 0 || value === "0" || value === "-0";

const isClose = (found: number, kept: number, tolerance: number): boolean => {
  const least = tolerance === OF_ITERATIONS ? 1 : 0;
  return Math.abs(found - kept) <= tolerance * Math.max(Math.abs(found), Math.abs(kept), least);
};

const describe = (value: unknown): string => JSON.stringify(value) ?? "nothing";

const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** An answer as JSON keeps it: NaN and Infinity become null. */
export const asKept = (answer: unknown): unknown => JSON.parse(JSON.stringify(answer ?? null));

/**
 * Where an answer differs from the kept one, a line for every place; none when they agree.
 * Fractions agree within the tolerance; everything else must be equal.
 */
export function differences(
  found: unknown,
  kept: unknown,
  tolerance: number = OF_SUMS,
  path = "",
): readonly string[] {
  if (Array.isArray(found) && Array.isArray(kept)) {
    if (found.length !== kept.length) return [`${path}: ${found.length} entries, kept are ${kept.length}`];
    return found.flatMap((entry, index) => differences(entry, kept[index], tolerance, `${path}[${index}]`));
  }
  if (isRecord(found) && isRecord(kept))
    return [...new Set([...Object.keys(kept), ...Object.keys(found)])].flatMap((name) =>
      differences(found[name], kept[name], tolerance, path === "" ? name : `${path}.${name}`),
    );
  if (Object.is(found, kept)) return [];
  if (isZero(found) && isZero(kept)) return [];
  const isNumeric = (isFraction(found) || isFraction(kept)) && typeof found === typeof kept;
  if (isNumeric && isClose(Number(found), Number(kept), tolerance)) return [];
  return [`${path}: ${describe(found)}, kept is ${describe(kept)}`];
}
