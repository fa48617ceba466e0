import type { Task } from "../learn/task";
import { classCurves } from "./class-curves";
import { confusionMatrix, figureMaker, figureNotes, type FigureNotes, type ScoredRows } from "./figures";
import type { Judgement } from "./judgement";
import type { Figures } from "./metrics";
import { scoreCurve } from "./score-curve";

/** Judged rows, and what is to be known of them. */
export interface JudgedQuestion {
  readonly kind: Task["kind"];
  readonly scored: ScoredRows;
  /** What would always be predicted without a model: the base rate of the training rows. */
  readonly usual: readonly number[];
}

/** What judged rows say by themselves: figures, those of the base rate, what is drawn, and what to say about them. */
export interface JudgedFigures extends Pick<
  Judgement,
  "curve" | "matrix" | "classCurves" | "skewness" | "pairs" | "unweighted" | "unweightedCurve"
> {
  readonly figures: Figures;
  readonly base: Figures;
  readonly notes: FigureNotes;
}

/** Rows of the sample of predicted and actual values that is kept for drawing. */
const PAIRS = 600;

/**
 * All that is said of judged rows.
 * @param goesOn called between parts that each take long for millions of rows
 */
export function judgedFigures(
  { kind, scored, usual }: JudgedQuestion,
  goesOn: () => void = () => undefined,
): JudgedFigures {
  const figures = figureMaker(kind, scored)(undefined);
  goesOn();
  const base = baseFigures(kind, scored, usual);
  goesOn();
  const unweighted = scored.weights === undefined ? {} : unweightedFigures(kind, scored);
  goesOn();
  return { figures, base, notes: figureNotes(kind, scored), ...unweighted, ...drawn(kind, scored) };
}

/** Figures of always predicting the base rate of the training rows. */
function baseFigures(kind: Task["kind"], rows: ScoredRows, usual: readonly number[]): Figures {
  const outputs = usual.map((value) => new Float64Array(rows.answers.length).fill(value));
  return figureMaker(kind, { ...rows, outputs })(undefined);
}

/** What is said of the rows when each counts once. */
function unweightedFigures(
  kind: Task["kind"],
  scored: ScoredRows,
): Pick<Judgement, "unweighted" | "unweightedCurve"> {
  const rows = { ...scored, weights: undefined };
  return {
    unweighted: figureMaker(kind, rows)(undefined),
    ...(kind === "binary" ? { unweightedCurve: scoreCurve(rows) } : {}),
  };
}

const told = (curves: Judgement["classCurves"]): Pick<Judgement, "classCurves"> =>
  curves ? { classCurves: curves } : {};

/** What is drawn of judged rows. */
function drawn(
  kind: Task["kind"],
  scored: ScoredRows,
): Pick<Judgement, "curve" | "matrix" | "classCurves" | "skewness" | "pairs"> {
  switch (kind) {
    case "binary":
      return { curve: scoreCurve(scored) };
    case "classes":
      return { matrix: confusionMatrix(scored), ...told(classCurves(scored)) };
    case "number":
      return { skewness: skewnessOf(scored.answers), pairs: pairsOf(scored) };
  }
}

/** Predicted and actual value of some rows, spread evenly. */
function pairsOf({ outputs, answers }: ScoredRows): [number, number][] {
  const step = Math.max(1, Math.floor(answers.length / PAIRS));
  return Array.from({ length: Math.ceil(answers.length / step) }, (_, index) => [
    outputs[0]![index * step]!,
    answers[index * step]!,
  ]);
}

/** Third standardised moment: 0 for symmetric targets, above 1 for a long tail of large values. */
function skewnessOf(values: Float64Array): number {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  let [second, third] = [0, 0];
  for (const value of values) {
    second += (value - mean) ** 2;
    third += (value - mean) ** 3;
  }
  return second > 0 ? third / values.length / (second / values.length) ** 1.5 : 0;
}
