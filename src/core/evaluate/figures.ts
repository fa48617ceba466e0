import type { Task } from "../learn/task";
import type { Figures } from "./metrics";

/** Scored rows with their answers, column by column. */
export interface ScoredRows {
  /** One column per number of a prediction: the probability of yes, the number, or a probability for each class. */
  readonly outputs: readonly Float64Array[];
  /** 1 and 0, the number, or the code of the class. */
  readonly answers: Float64Array;
}

/** Probabilities are kept this far from 0 and 1 in the log loss, so that one sure mistake does not make it infinite. */
const LOG_LOSS_BOUND = 1e-15;

const bounded = (probability: number): number =>
  Math.min(1 - LOG_LOSS_BOUND, Math.max(LOG_LOSS_BOUND, probability));

/** Computes figures of the same rows, each counted so often; made once, asked many times. */
export type FigureMaker = (counts: ArrayLike<number> | undefined) => Figures;

/** Prepares the figures for a target. What needs sorting is sorted once. */
export function figureMaker(kind: Task["kind"], rows: ScoredRows): FigureMaker {
  switch (kind) {
    case "binary":
      return binaryFigures(rows.outputs[0]!, rows.answers);
    case "number":
      return numberFigures(rows.outputs[0]!, rows.answers);
    case "classes":
      return classFigures(rows);
  }
}

const sorted = (count: number, by: (row: number) => number): Uint32Array =>
  Uint32Array.from({ length: count }, (_, row) => row).sort((left, right) => by(left) - by(right));

/**
 * AUC counts pairs, ties as half (Mann and Whitney, Annals of Mathematical Statistics 18, 1947); average precision is the sum over
 * thresholds of recall gained times precision, no interpolation; Brier is the mean squared error of the probability.
 */
function binaryFigures(scores: Float64Array, answers: Float64Array): FigureMaker {
  const order = sorted(scores.length, (row) => -scores[row]!);
  return (counts) => {
    let [tp, fp, pairs, precision, loss, brier, right, distance] = [0, 0, 0, 0, 0, 0, 0, 0];
    let [allPositive, allNegative] = [0, 0];
    for (let row = 0; row < scores.length; row += 1) {
      const times = counts === undefined ? 1 : counts[row]!;
      if (answers[row] === 1) allPositive += times;
      else allNegative += times;
    }
    let at = 0;
    while (at < order.length) {
      const score = scores[order[at]!]!;
      let [positives, negatives] = [0, 0];
      for (; at < order.length && scores[order[at]!] === score; at += 1) {
        const row = order[at]!;
        const times = counts === undefined ? 1 : counts[row]!;
        const y = answers[row]!;
        if (y === 1) positives += times;
        else negatives += times;
        loss += times * (y === 1 ? -Math.log(bounded(score)) : -Math.log(1 - bounded(score)));
        brier += times * (score - y) ** 2;
        if (score >= 0.5 === (y === 1)) right += times;
      }
      tp += positives;
      fp += negatives;
      pairs += negatives * (tp - positives / 2);
      if (positives > 0) precision += (positives * tp) / (tp + fp);
      distance = Math.max(distance, Math.abs(tp / allPositive - fp / allNegative));
    }
    const total = allPositive + allNegative;
    const both = allPositive > 0 && allNegative > 0;
    return {
      auc: both ? pairs / (allPositive * allNegative) : null,
      average_precision: allPositive > 0 ? precision / allPositive : null,
      ks: both ? distance : null,
      log_loss: loss / total,
      brier: brier / total,
      accuracy: right / total,
    };
  };
}

function numberFigures(predictions: Float64Array, answers: Float64Array): FigureMaker {
  const errors = predictions.map((value, row) => Math.abs(value - answers[row]!));
  const order = sorted(errors.length, (row) => errors[row]!);
  return (counts) => {
    let [total, squares, absolute, sum, squared, shares, shared] = [0, 0, 0, 0, 0, 0, 0];
    for (let row = 0; row < errors.length; row += 1) {
      const times = counts === undefined ? 1 : counts[row]!;
      const [error, y] = [errors[row]!, answers[row]!];
      total += times;
      squares += times * error * error;
      absolute += times * error;
      sum += times * y;
      if (y !== 0) {
        shares += (times * error) / Math.abs(y);
        shared += times;
      }
    }
    const mean = sum / total;
    for (let row = 0; row < errors.length; row += 1)
      squared += (counts === undefined ? 1 : counts[row]!) * (answers[row]! - mean) ** 2;
    return {
      rmse: Math.sqrt(squares / total),
      mae: absolute / total,
      median_error: medianOf(errors, order, counts, total),
      r_squared: squared > 0 ? 1 - squares / squared : null,
      percentage_error: shared > 0 ? shares / shared : null,
    };
  };
}

/** The middle value; between the two middle ones when rows count once and there are as many below as above. */
function medianOf(
  values: Float64Array,
  order: Uint32Array,
  counts: ArrayLike<number> | undefined,
  total: number,
): number {
  let before = 0;
  for (let at = 0; at < order.length; at += 1) {
    before += counts === undefined ? 1 : counts[order[at]!]!;
    if (before > total / 2) return values[order[at]!]!;
    if (before === total / 2) {
      let next = at + 1;
      while (next < order.length - 1 && counts !== undefined && counts[order[next]!] === 0) next += 1;
      return (values[order[at]!]! + values[order[Math.min(next, order.length - 1)]!]!) / 2;
    }
  }
  return Number.NaN;
}

/** The class with the highest probability; the earlier one of several. */
export function mostProbable(outputs: readonly Float64Array[], row: number): number {
  let best = 0;
  for (let code = 1; code < outputs.length; code += 1)
    if (outputs[code]![row]! > outputs[best]![row]!) best = code;
  return best;
}

function classFigures({ outputs, answers }: ScoredRows): FigureMaker {
  const classes = outputs.length;
  const chosen = Uint16Array.from(answers, (_, row) => mostProbable(outputs, row));
  const losses = answers.map((code, row) => -Math.log(bounded(outputs[code]![row]!)));
  const briers = answers.map((code, row) =>
    outputs.reduce((sum, each, index) => sum + (each[row]! - (index === code ? 1 : 0)) ** 2, 0),
  );
  return (counts) => {
    let [total, loss, brier, right] = [0, 0, 0, 0];
    const hits = new Float64Array(classes);
    const said = new Float64Array(classes);
    const there = new Float64Array(classes);
    for (let row = 0; row < answers.length; row += 1) {
      const times = counts === undefined ? 1 : counts[row]!;
      const code = answers[row]!;
      total += times;
      loss += times * losses[row]!;
      brier += times * briers[row]!;
      there[code]! += times;
      said[chosen[row]!]! += times;
      if (chosen[row] === code) {
        hits[code]! += times;
        right += times;
      }
    }
    let scores = 0;
    let present = 0;
    for (let code = 0; code < classes; code += 1) {
      if (there[code]! + said[code]! === 0) continue;
      scores += (2 * hits[code]!) / (there[code]! + said[code]!);
      present += 1;
    }
    return {
      log_loss: loss / total,
      brier: brier / total,
      accuracy: right / total,
      macro_f1: scores / present,
    };
  };
}

/** How often each class was taken for each: matrix[answer][prediction]. */
export function confusionMatrix({ outputs, answers }: ScoredRows): number[][] {
  const matrix = outputs.map(() => new Array<number>(outputs.length).fill(0));
  answers.forEach((code, row) => {
    matrix[code]![mostProbable(outputs, row)]! += 1;
  });
  return matrix;
}
