import { z } from "zod";
import type { Matrix } from "../../numeric/cholesky";
import type { FrameSummary } from "../questions";
import { termName, toOriginal, type Design } from "./design";
import type { LinearPart } from "./linear-part";

export const coefficientSchema = z.object({
  term: z.string(),
  column: z.string().optional(),
  /** The class that the coefficient speaks for; for several classes only. */
  class: z.string().optional(),
  /** Original units: change of the predictor for one unit. */
  estimate: z.number(),
  /** Standard error; null where the method gives none. */
  error: z.number().nullable(),
  /** The estimate divided by its error. */
  ratio: z.number().nullable(),
  p: z.number().nullable(),
  /** Change of the predictor for one standard deviation. */
  perDeviation: z.number(),
});
export type CoefficientRow = z.infer<typeof coefficientSchema>;

/** How the error of a coefficient becomes a p value: two-sided normal, or Student's t. */
export type PValue = (ratio: number) => number;

/**
 * The model on the original scale, with one row per coefficient for people.
 * @param scaled coefficients on the solver's scale
 * @param covariance of those, on the same scale; undefined when the method gives none
 */
export function readable(
  design: Design,
  scaled: Float64Array,
  covariance: Matrix | undefined,
  summary: FrameSummary,
  pValue: PValue,
): LinearPart & { readonly coefficients: CoefficientRow[] } {
  const { centre, spread } = design.target;
  const original = toOriginal(design, scaled).map(
    (value, index) => value * spread + (index === 0 ? centre : 0),
  );
  const rows = design.terms.map((term, index): CoefficientRow => {
    const error = covariance && standardError(design, covariance, index) * spread;
    const ratio = error === undefined ? null : original[index]! / error;
    return {
      term: termName(term),
      ...(term.kind === "intercept" ? {} : { column: term.column }),
      estimate: original[index]!,
      error: error ?? null,
      ratio,
      p: ratio === null ? null : pValue(ratio),
      perDeviation: scaled[index]! * spread,
    };
  });
  const categories = design.categories.map((category) => {
    const counts =
      summary.categories.find((oneCategory) => oneCategory.column === category.column)?.rows ?? [];
    const levels = category.levels.map((level, index) => {
      const position = category.positions[index + 1]!;
      return { level, rows: counts[index] ?? 0, coefficient: position < 0 ? 0 : original[position]! };
    });
    const total = levels.reduce((sum, level) => sum + level.rows, 0);
    return {
      column: category.column,
      levels,
      unseen: levels.reduce((sum, level) => sum + level.coefficient * (level.rows / total), 0),
    };
  });
  return {
    intercept: original[0]!,
    numbers: design.numbers.map((column, index) => ({
      column,
      coefficient: original[index + 1]!,
      ...(design.fills[index] === undefined ? {} : { fill: design.fills[index] }),
    })),
    categories,
    coefficients: rows,
  };
}

/** Standard error on the original scale: the change of scale is linear, so its rows carry the covariance over. */
function standardError(design: Design, covariance: Matrix, index: number): number {
  if (index > 0) return Math.sqrt(covariance[index]![index]!) / design.spreads[index]!;
  const weights = design.terms.map((_, index) =>
    index === 0 ? 1 : -design.centres[index]! / design.spreads[index]!,
  );
  let variance = 0;
  for (let i = 0; i < weights.length; i += 1)
    for (let j = 0; j < weights.length; j += 1) variance += weights[i]! * weights[j]! * covariance[i]![j]!;
  return Math.sqrt(variance);
}
