import type { TreeLoss } from "../trees/tree-questions";
import type { TreeKernels } from "./kernels/open-kernels";

/** Losses and gradients of trees, row by row. Scores and answers are one number per output. */

/** Rows whose losses are summed at a time. Sums of these chunks, added in order, do not depend on how rows are divided among threads. */
export const CHUNK = 4096;

/** Probabilities of classes from their scores, into `into`. @returns the logarithm of the sum of the scores' exponentials */
export function softmaxInto(scores: ArrayLike<number>, count: number, into: Float64Array): number {
  let most = -Infinity;
  for (let index = 0; index < count; index += 1) if (scores[index]! > most) most = scores[index]!;
  let total = 0;
  for (let index = 0; index < count; index += 1) {
    into[index] = Math.exp(scores[index]! - most);
    total += into[index]!;
  }
  for (let index = 0; index < count; index += 1) into[index]! /= total;
  return most + Math.log(total);
}

export interface Slopes {
  readonly gradients: readonly Float64Array[];
  readonly curvatures: readonly Float64Array[];
}

/** Sums of losses and weights by chunk: of the rows that trees are grown on, and of those kept apart. */
export interface LossSums {
  readonly losses: readonly [Float64Array, Float64Array];
  readonly weights: readonly [Float64Array, Float64Array];
}

/** What gradients are computed from. Weights are undefined when every row weighs 1; `apart` marks (1) rows that are kept apart. */
export interface SlopeRows {
  readonly target: Float64Array;
  readonly weight: Float64Array | undefined;
  readonly scores: readonly Float64Array[];
  readonly apart: Uint8Array | undefined;
}

/**
 * Goes through rows chunk by chunk and sums their losses.
 * @param work fills gradients and curvatures from row `from` up to, not including, row `to`, and puts each row's loss into `own`, from its place 0
 */
function byChunk(
  { target, weight, apart }: SlopeRows,
  work: (from: number, to: number, own: Float64Array) => void,
): LossSums {
  const rows = target.length;
  const chunks = Math.ceil(rows / CHUNK);
  const sums: LossSums = {
    losses: [new Float64Array(chunks), new Float64Array(chunks)],
    weights: [new Float64Array(chunks), new Float64Array(chunks)],
  };
  const own = new Float64Array(CHUNK);
  for (let chunk = 0; chunk < chunks; chunk += 1) {
    const from = chunk * CHUNK;
    const to = Math.min(rows, from + CHUNK);
    work(from, to, own);
    for (const side of apart === undefined ? ([0] as const) : ([0, 1] as const)) {
      let [losses, weights] = [0, 0];
      for (let row = from; row < to; row += 1) {
        if (apart !== undefined && apart[row] !== side) continue;
        const times = weight === undefined ? 1 : weight[row]!;
        losses += own[row - from]! * times;
        weights += times;
      }
      sums.losses[side][chunk] = losses;
      sums.weights[side][chunk] = weights;
    }
  }
  return sums;
}

/** How many factors of at most 2 are multiplied before their logarithm is taken. */
const FACTORS = 512;

/** Fills gradients and curvatures of the logistic loss by the kernel. Its arrays lie in the kernel's memory; scratch has room for two chunks of doubles. */
export function logisticSlopes(
  kernels: TreeKernels,
  rows: SlopeRows,
  { gradients, curvatures }: Slopes,
  scratch: number,
): LossSums {
  const at = (values: Float64Array, from: number): number => values.byteOffset + 8 * from;
  const linear = new Float64Array(kernels.memory.buffer, scratch, CHUNK);
  const factors = new Float64Array(kernels.memory.buffer, scratch + 8 * CHUNK, CHUNK);
  return byChunk(rows, (from, to, own) => {
    kernels.logistic(
      to - from,
      at(rows.scores[0]!, from),
      at(rows.target, from),
      rows.weight ? at(rows.weight, from) : 0,
      at(gradients[0]!, from),
      at(curvatures[0]!, from),
      scratch,
      scratch + 8 * CHUNK,
    );
    own.set(linear);
    if (rows.weight !== undefined || rows.apart !== undefined) {
      for (let index = 0; index < to - from; index += 1) own[index]! += Math.log(factors[index]!);
      return;
    }
    // A logarithm of a product instead of one of each factor.
    for (let begin = 0; begin < to - from; begin += FACTORS) {
      let product = 1;
      const end = Math.min(to - from, begin + FACTORS);
      for (let index = begin; index < end; index += 1) product *= factors[index]!;
      own[begin]! += Math.log(product);
    }
  });
}

/**
 * Fills gradients and curvatures of every output at the scores so far, and sums losses on the way. Curvatures of softmax are
 * twice p (1 - p), as is usual for boosting one tree per class.
 */
export function slopesInto(
  loss: Exclude<TreeLoss, "logistic">,
  rows: SlopeRows,
  { gradients, curvatures }: Slopes,
): LossSums {
  const { target, weight, scores } = rows;
  const shares = new Float64Array(scores.length);
  const array = new Float64Array(scores.length);
  const [score, gradient, curvature] = [scores[0]!, gradients[0]!, curvatures[0]!];
  return byChunk(rows, (from, to, own) => {
    for (let row = from; row < to; row += 1) {
      const times = weight === undefined ? 1 : weight[row]!;
      const y = target[row]!;
      switch (loss) {
        case "squared":
        case "absolute": {
          const error = score[row]! - y;
          gradient[row] = (loss === "squared" ? error : Math.sign(error)) * times;
          curvature[row] = times;
          own[row - from] = loss === "squared" ? error * error : Math.abs(error);
          break;
        }
        case "softmax":
          for (let output = 0; output < scores.length; output += 1) array[output] = scores[output]![row]!;
          own[row - from] = softmaxInto(array, scores.length, shares) - array[y]!;
          for (let output = 0; output < scores.length; output += 1) {
            gradients[output]![row] = (shares[output]! - (y === output ? 1 : 0)) * times;
            curvatures[output]![row] = 2 * shares[output]! * (1 - shares[output]!) * times;
          }
          break;
        case "gini":
          gradient[row] = times;
      }
    }
  });
}
