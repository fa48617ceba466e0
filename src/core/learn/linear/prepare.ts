import { failure, success, type Result } from "../../problem";
import type { CategoryLevels } from "../../plan/frame";
import { isConstant } from "../left-out";
import type { FrameSummary } from "../questions";
import { layOut, type Design, type NumberSummary } from "./design";
import { checkSummary } from "./diagnose";

/** What a linear learner is told about its columns. */
export interface DesignOptions {
  readonly categories: readonly CategoryLevels[];
  readonly reference: Readonly<Record<string, string>>;
  /** stop: a number that is missing somewhere forbids training. mean: its mean stands in. */
  readonly missing: "stop" | "mean";
  readonly target?: Design["target"];
}

/** Lays out the coefficients from the first counts, or says what forbids training. Constant columns are left out. */
export function prepareDesign(summary: FrameSummary, options: DesignOptions): Result<Design> {
  const found = checkSummary(summary, options.missing);
  if (found.length > 0) return failure(...found);
  const useful = summary.numbers.flatMap((number): NumberSummary[] => {
    if (number.missing === summary.rows || isConstant(number)) return [];
    if (number.missing === 0) return [number];
    // With the mean put into the gaps the deviation shrinks.
    return [
      {
        ...number,
        fill: number.mean,
        deviation: number.deviation * Math.sqrt((summary.rows - number.missing) / summary.rows),
      },
    ];
  });
  const categories = options.categories.flatMap((category) => {
    const counts = summary.categories.find((oneCategory) => oneCategory.column === category.column);
    return category.levels.length > 1 && counts ? [{ ...category, rows: counts.rows }] : [];
  });
  return success(layOut(useful, categories, options.reference, options.target));
}
