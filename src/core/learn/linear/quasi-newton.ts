/** One place an iteration has been to. */
interface Correction {
  readonly step: Float64Array;
  readonly change: Float64Array;
  readonly product: number;
}

const dot = (left: Float64Array, right: Float64Array): number => {
  let sum = 0;
  for (let index = 0; index < left.length; index += 1) sum += left[index]! * right[index]!;
  return sum;
};

/** Passes in which neither the loss fell nor the moves got much shorter, after which the minimum is reached. */
const STILL = 8;
/** Corrections kept. */
const MEMORY = 20;

export interface Point {
  readonly loss: number;
  readonly gradient: Float64Array;
}

export interface QuasiNewtonOptions {
  readonly start: Float64Array;
  /** Loss and gradient at a point. */
  readonly at: (point: Float64Array) => Promise<Point>;
  /** A cheap stand-in for the inverse Hessian, applied to a gradient. */
  readonly precondition: (gradient: Float64Array) => Float64Array;
  /** Whether a point shows that there is no minimum, so that going on is in vain. */
  readonly hopeless?: (point: Float64Array) => boolean;
  readonly tolerance: number;
  readonly mostPasses: number;
  readonly onPass: (pass: {
    readonly pass: number;
    readonly loss: number;
    readonly gradient: Float64Array;
    readonly step: number;
  }) => Promise<void>;
}

/**
 * Minimises a smooth convex function by limited-memory BFGS with a preconditioner as its first guess of the inverse Hessian,
 * and steps that are halved until the loss falls enough.
 * Source: Nocedal and Wright, Numerical Optimization, 2nd ed., algorithms 7.4 and 3.1.
 * @returns the minimum, or the best point of the last pass (not settled); undefined when no direction led down
 */
export async function quasiNewton(options: QuasiNewtonOptions): Promise<
  | {
      readonly point: Float64Array;
      readonly loss: number;
      readonly gradient: Float64Array;
      /** The last move. */
      readonly step: Float64Array;
      readonly settled: boolean;
    }
  | undefined
> {
  let point = options.start;
  let here = await options.at(point);
  let corrections: Correction[] = [];
  let still = 0;
  let shortest = Infinity;
  let last = new Float64Array(point.length);
  for (let pass = 1; pass <= options.mostPasses; pass += 1) {
    const direction = descent(here.gradient, corrections, options.precondition);
    const slope = dot(direction, here.gradient);
    const length = direction.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    await options.onPass({ pass, loss: here.loss, gradient: here.gradient, step: length });
    if (length < shortest / 2) {
      shortest = length;
      still = 0;
    }
    // When neither loss nor moves shrink by more than their own rounding, further passes change nothing either.
    if (length <= options.tolerance || still >= STILL)
      return { point, loss: here.loss, gradient: here.gradient, step: last, settled: true };
    if (options.hopeless?.(point)) break;
    if (slope >= 0) {
      if (corrections.length === 0) return undefined;
      corrections = [];
      continue;
    }
    let share = 1;
    let next = point;
    let there: Point | undefined;
    while (share > 1e-12) {
      next = point.map((value, index) => value + share * direction[index]!);
      there = await options.at(next);
      if (there.loss <= here.loss + 1e-4 * share * slope + 1e-14 * Math.abs(here.loss)) break;
      share /= 2;
    }
    if (!there) return undefined;
    const step = next.map((value, index) => value - point[index]!);
    const change = there.gradient.map((value, index) => value - here.gradient[index]!);
    const product = dot(step, change);
    if (product > 1e-300) corrections = [...corrections.slice(1 - MEMORY), { step, change, product }];
    still = here.loss - there.loss <= 1e-14 * Math.abs(here.loss) ? still + 1 : 0;
    point = next;
    here = there;
    last = step;
  }
  return { point, loss: here.loss, gradient: here.gradient, step: last, settled: false };
}

/** The two-loop recursion. */
function descent(
  gradient: Float64Array,
  corrections: readonly Correction[],
  precondition: (gradient: Float64Array) => Float64Array,
): Float64Array {
  const rest = Float64Array.from(gradient);
  const weights = new Array<number>(corrections.length);
  for (let index = corrections.length - 1; index >= 0; index -= 1) {
    const { step, change, product } = corrections[index]!;
    const weight = dot(step, rest) / product;
    weights[index] = weight;
    for (let index = 0; index < rest.length; index += 1) rest[index]! -= weight * change[index]!;
  }
  const result = precondition(rest);
  corrections.forEach(({ step, change, product }, index) => {
    const weight = weights[index]! - dot(change, result) / product;
    for (let index = 0; index < result.length; index += 1) result[index]! += weight * step[index]!;
  });
  return result.map((value) => -value);
}
