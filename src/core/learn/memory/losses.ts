import type { TreeLoss } from "../trees/tree-questions";

/** Mean losses and gradients of the losses of trees, row by row. Scores and answers are one number per output. */

const sigmoid = (value: number): number => 1 / (1 + Math.exp(-value));

/** Probabilities of classes from their scores, into `into`. */
export function softmaxInto(scores: ArrayLike<number>, count: number, into: Float64Array): void {
  let most = -Infinity;
  for (let index = 0; index < count; index += 1) if (scores[index]! > most) most = scores[index]!;
  let total = 0;
  for (let index = 0; index < count; index += 1) {
    into[index] = Math.exp(scores[index]! - most);
    total += into[index]!;
  }
  for (let index = 0; index < count; index += 1) into[index]! /= total;
}

/** Fills gradients and curvatures of every output. Curvatures of softmax are twice p (1 - p), as is usual for boosting one tree per class. */
export function gradientsInto(loss: TreeLoss, target: Float64Array, weight: Float64Array | undefined, scores: readonly Float64Array[], gradients: readonly Float64Array[], curvatures: readonly Float64Array[]): void {
  const rows = target.length;
  const outputs = scores.length;
  const each = new Float64Array(outputs);
  const shares = new Float64Array(outputs);
  const [score, gradient, curvature] = [scores[0]!, gradients[0]!, curvatures[0]!];
  for (let row = 0; row < rows; row += 1) {
    const times = weight === undefined ? 1 : weight[row]!;
    const y = target[row]!;
    switch (loss) {
      case "squared":
        gradient[row] = (score[row]! - y) * times;
        curvature[row] = times;
        break;
      case "absolute":
        gradient[row] = Math.sign(score[row]! - y) * times;
        curvature[row] = times;
        break;
      case "logistic": {
        const p = sigmoid(score[row]!);
        gradient[row] = (p - y) * times;
        curvature[row] = p * (1 - p) * times;
        break;
      }
      case "softmax":
        for (let output = 0; output < outputs; output += 1) each[output] = scores[output]![row]!;
        softmaxInto(each, outputs, shares);
        for (let output = 0; output < outputs; output += 1) {
          gradients[output]![row] = (shares[output]! - (y === output ? 1 : 0)) * times;
          curvatures[output]![row] = 2 * shares[output]! * (1 - shares[output]!) * times;
        }
        break;
      case "gini":
        gradient[row] = times;
        curvature[row] = times;
    }
  }
}

/** Loss of one row at its scores. */
export function lossAt(loss: TreeLoss, y: number, scores: ArrayLike<number>, outputs: number, shares: Float64Array): number {
  switch (loss) {
    case "squared": return (y - scores[0]!) ** 2;
    case "absolute": return Math.abs(y - scores[0]!);
    case "logistic": return Math.max(scores[0]!, 0) + Math.log1p(Math.exp(-Math.abs(scores[0]!))) - y * scores[0]!;
    case "softmax": case "gini":
      softmaxInto(scores, outputs, shares);
      return -Math.log(Math.max(shares[y]!, 1e-15));
  }
}
