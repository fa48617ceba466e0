import type { Task } from "../learn/task";
import type { Figures } from "./metrics";

/** Scored rows with their answers, column by column. */
export interface ScoredRows {
  /** One column per number of a prediction: the probability of yes, the number, or a probability for each class. */
  readonly outputs: readonly Float64Array[];
  /** 1 and 0, the number, or the code of the class: {@link UNKNOWN_CLASS} for one that training lacks. */
  readonly answers: Float64Array;
  /** How much each row counts; undefined when all count the same. */
  readonly weights?: Float64Array | undefined;
}

/** Stands for an answer that no training row has. Whatever is predicted for such a row is wrong. */
export const UNKNOWN_CLASS = -1;

/** Probabilities are kept this far from 0 and 1 in the log loss, so that one sure mistake does not make it infinite. */
const LOG_LOSS_BOUND = 1e-15;

const bounded = (probability: number): number =>
  Math.min(1 - LOG_LOSS_BOUND, Math.max(LOG_LOSS_BOUND, probability));

/** Computes figures of the same rows, each counted so often; made once, asked many times. */
export type FigureMaker = (counts: ArrayLike<number> | undefined) => Figures;

/** The same with every row's own weight multiplied in. */
type WeightedMaker = (times: Float64Array) => Figures;

/** Prepares the figures for a target. What needs sorting is sorted once; rows count with their weights. */
export function figureMaker(kind: Task["kind"], rows: ScoredRows): FigureMaker {
  const make = weightedMaker(kind, rows);
  const { weights } = rows;
  const once = weights ?? new Float64Array(rows.answers.length).fill(1);
  const times = new Float64Array(rows.answers.length);
  return (counts) => {
    if (counts === undefined) return make(once);
    for (let row = 0; row < times.length; row += 1) times[row] = counts[row]! * once[row]!;
    return make(times);
  };
}

function weightedMaker(kind: Task["kind"], rows: ScoredRows): WeightedMaker {
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
function binaryFigures(scores: Float64Array, answers: Float64Array): WeightedMaker {
  const order = sorted(scores.length, (row) => -scores[row]!);
  // Everything that does not change from sample to sample, in the order of the scores.
  const positive = Float64Array.from(order, (row) => (answers[row] === 1 ? 1 : 0));
  const lastOfScore = Uint8Array.from(order, (row, at) => (scores[row] === scores[order[at + 1]!] ? 0 : 1));
  const losses = Float64Array.from(order, (row, at) =>
    positive[at] === 1 ? -Math.log(bounded(scores[row]!)) : -Math.log(1 - bounded(scores[row]!)),
  );
  const squares = Float64Array.from(order, (row) => (scores[row]! - answers[row]!) ** 2);
  const right = Float64Array.from(order, (row, at) => (scores[row]! >= 0.5 === (positive[at] === 1) ? 1 : 0));
  return (times) => {
    let [allPositive, total] = [0, 0];
    for (let at = 0; at < order.length; at += 1) {
      const weight = times[order[at]!]!;
      total += weight;
      allPositive += weight * positive[at]!;
    }
    const allNegative = total - allPositive;
    let [tp, fp, pairs, precision, loss, brier, hits, distance] = [0, 0, 0, 0, 0, 0, 0, 0];
    let [positives, negatives] = [0, 0];
    for (let at = 0; at < order.length; at += 1) {
      const weight = times[order[at]!]!;
      const share = weight * positive[at]!;
      positives += share;
      negatives += weight - share;
      loss += weight * losses[at]!;
      brier += weight * squares[at]!;
      hits += weight * right[at]!;
      if (lastOfScore[at] === 0) continue;
      tp += positives;
      fp += negatives;
      pairs += negatives * (tp - positives / 2);
      if (positives > 0) precision += (positives * tp) / (tp + fp);
      // The distance of the shares, times what both are shares of: a division less for every score.
      const apart = Math.abs(tp * allNegative - fp * allPositive);
      if (apart > distance) distance = apart;
      positives = 0;
      negatives = 0;
    }
    const both = allPositive > 0 && allNegative > 0;
    return {
      auc: both ? pairs / (allPositive * allNegative) : null,
      average_precision: allPositive > 0 ? precision / allPositive : null,
      ks: both ? distance / (allPositive * allNegative) : null,
      log_loss: loss / total,
      brier: brier / total,
      accuracy: hits / total,
    };
  };
}

function numberFigures(predictions: Float64Array, answers: Float64Array): WeightedMaker {
  const errors = predictions.map((value, row) => Math.abs(value - answers[row]!));
  const order = sorted(errors.length, (row) => errors[row]!);
  return (times) => {
    let [total, squares, absolute, sum, squared, shares, shared] = [0, 0, 0, 0, 0, 0, 0];
    for (let row = 0; row < errors.length; row += 1) {
      const [error, y] = [errors[row]!, answers[row]!];
      total += times[row]!;
      squares += times[row]! * error * error;
      absolute += times[row]! * error;
      sum += times[row]! * y;
      if (y !== 0) {
        shares += (times[row]! * error) / Math.abs(y);
        shared += times[row]!;
      }
    }
    const mean = sum / total;
    for (let row = 0; row < errors.length; row += 1) {
      const distance = answers[row]! - mean;
      squared += times[row]! * distance * distance;
    }
    return {
      rmse: Math.sqrt(squares / total),
      mae: absolute / total,
      median_error: medianOf(errors, order, times, total),
      r_squared: squared > 0 ? 1 - squares / squared : null,
      percentage_error: shared > 0 ? shares / shared : null,
    };
  };
}

/** The middle value by weight; between the two middle ones when there is as much below as above. */
function medianOf(values: Float64Array, order: Uint32Array, times: Float64Array, total: number): number {
  let before = 0;
  for (let at = 0; at < order.length; at += 1) {
    before += times[order[at]!]!;
    if (before > total / 2) return values[order[at]!]!;
    if (before === total / 2) {
      let next = at + 1;
      while (next < order.length - 1 && times[order[next]!] === 0) next += 1;
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

/** Averages over classes run over every class of the model, those without a row included. */
function classFigures({ outputs, answers }: ScoredRows): WeightedMaker {
  const classes = outputs.length;
  const chosen = Uint16Array.from(answers, (_, row) => mostProbable(outputs, row));
  const losses = answers.map((code, row) => -Math.log(bounded(outputs[code]?.[row] ?? 0)));
  const briers = answers.map((code, row) =>
    outputs.reduce(
      (sum, output, index) => sum + (output[row]! - (index === code ? 1 : 0)) ** 2,
      code === UNKNOWN_CLASS ? 1 : 0,
    ),
  );
  return (times) => {
    let [total, loss, brier, right] = [0, 0, 0, 0];
    const hits = new Float64Array(classes);
    const predicted = new Float64Array(classes);
    const there = new Float64Array(classes);
    for (let row = 0; row < answers.length; row += 1) {
      const code = answers[row]!;
      total += times[row]!;
      loss += times[row]! * losses[row]!;
      brier += times[row]! * briers[row]!;
      predicted[chosen[row]!]! += times[row]!;
      if (code !== UNKNOWN_CLASS) there[code]! += times[row]!;
      if (chosen[row] === code) {
        hits[code]! += times[row]!;
        right += times[row]!;
      }
    }
    let scores = 0;
    for (let code = 0; code < classes; code += 1) {
      const either = there[code]! + predicted[code]!;
      if (either > 0) scores += (2 * hits[code]!) / either;
    }
    return {
      log_loss: loss / total,
      brier: brier / total,
      accuracy: right / total,
      macro_f1: scores / classes,
    };
  };
}

/** How often each class was taken for each: matrix[answer][prediction]. Answers that training lacks have no line. */
export function confusionMatrix({ outputs, answers }: ScoredRows): number[][] {
  const matrix = outputs.map(() => new Array<number>(outputs.length).fill(0));
  answers.forEach((code, row) => {
    if (code !== UNKNOWN_CLASS) matrix[code]![mostProbable(outputs, row)]! += 1;
  });
  return matrix;
}

/** What a reader of figures must know beside them. */
export interface FigureNotes {
  /** Rows whose class training lacks: they count as wrong, and with the largest loss there is. */
  readonly unknownAnswers: number;
  /** Codes of classes that no row has. */
  readonly absentClasses: readonly number[];
  /** Rows with an answer of 0, which a percentage error leaves out. */
  readonly zeroAnswers: number;
}

/** Counts what {@link FigureNotes} tells. */
export function figureNotes(kind: Task["kind"], { outputs, answers }: ScoredRows): FigureNotes {
  const found = new Set(answers);
  return {
    unknownAnswers: kind === "classes" ? answers.filter((code) => code === UNKNOWN_CLASS).length : 0,
    absentClasses: kind === "classes" ? outputs.flatMap((_, code) => (found.has(code) ? [] : [code])) : [],
    zeroAnswers: kind === "number" ? answers.filter((answer) => answer === 0).length : 0,
  };
}
