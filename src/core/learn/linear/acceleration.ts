import { cholesky, solve } from "../../numeric/cholesky";

/** Where an iteration was, the gradient there, and the step its preconditioner proposed. */
export interface Visit {
  readonly point: Float64Array;
  readonly gradient: Float64Array;
  readonly move: Float64Array;
}

const dot = (left: Float64Array, right: Float64Array): number =>
  left.reduce((sum, value, index) => sum + value * right[index]!, 0);
const minus = (left: Float64Array, right: Float64Array): Float64Array =>
  left.map((value, index) => value - right[index]!);

/** Visits kept: older ones say nothing new. */
const MOST_VISITS = 5;

/**
 * The next point of a preconditioned gradient iteration, mixed from the last visits so that the proposed move is as short
 * as it can be. Near a minimum this about halves what each pass leaves, at no pass more. Lengths are measured in the norm
 * of the preconditioner, for which move . gradient is all that is needed.
 * Source: Walker and Ni, "Anderson acceleration for fixed-point iterations", SIAM Journal on Numerical Analysis 49, 2011.
 * @param visits oldest first; the last is the current one
 */
export function nextPoint(visits: readonly Visit[]): Float64Array {
  const last = visits.at(-1)!;
  const plain = last.point.map((value, index) => value + last.move[index]!);
  const pairs = visits.slice(-MOST_VISITS).flatMap((visit, index, kept) => {
    const after = kept[index + 1];
    return after
      ? [
          {
            point: minus(after.point, visit.point),
            gradient: minus(after.gradient, visit.gradient),
            move: minus(after.move, visit.move),
          },
        ]
      : [];
  });
  if (pairs.length === 0) return plain;
  const factor = cholesky(
    pairs.map((left) => Float64Array.from(pairs.map((right) => -dot(left.move, right.gradient)))),
  );
  if (factor.kind === "dependent") return plain;
  const weights = solve(
    factor.lower,
    pairs.map((pair) => -dot(pair.move, last.gradient)),
  );
  return plain.map((value, index) =>
    pairs.reduce(
      (sum, pair, value) => sum - weights[value]! * (pair.point[index]! + pair.move[index]!),
      value,
    ),
  );
}
