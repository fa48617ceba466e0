import { problem, type Problem } from "../problem";
import { termName, type Design } from "./design";
import type { FrameSummary } from "./questions";

const list = (names: readonly string[]): string => names.slice(0, 5).map((name) => `"${name}"`).join(", ") + (names.length > 5 ? ` and ${names.length - 5} more` : "");

/** Names the columns behind a singular Hessian: one is a linear combination of others. */
export function collinear(design: Design, index: number, combination: Float64Array): Problem {
  const itself = termName(design.terms[index]!);
  const most = combination.reduce((largest, value) => Math.max(largest, Math.abs(value)), 0);
  const others = [...combination].flatMap((value, other) => (Math.abs(value) > 1e-6 * Math.max(1, most) ? [termName(design.terms[other]!)] : []));
  const from = others.length === 0 ? "the other columns" : list(others);
  return problem("collinear", `"${itself}" can be computed exactly from ${from}, so their coefficients cannot be told apart.`, `Exclude one of them, or set a small ridge such as 0.001.`);
}

/** Names the columns whose coefficients run away: they separate the classes perfectly, in whole or in part. */
export function divergence(design: Design, step: Float64Array): Problem {
  const most = step.reduce((largest, value) => Math.max(largest, Math.abs(value)), 0);
  const running = [...step].flatMap((value, index) => (index > 0 && Math.abs(value) >= 0.2 * most ? [termName(design.terms[index]!)] : []));
  const names = running.length > 0 ? running : ["intercept"];
  return problem(
    "separated",
    `The classes are separated: ${list(names)} ${names.length > 1 ? "together tell" : "tells"} some rows' answers without fail, so the coefficient${names.length > 1 ? "s" : ""} would grow without bound.`,
    "Look whether this column gives the answer away and exclude it; if it is honest, set a small ridge such as 0.001.",
  );
}

/** A category in which every row has the same answer has no finite coefficient. */
export function separatedLevels(categories: readonly { readonly column: string; readonly levels: readonly (string | null)[]; readonly rows: readonly number[]; readonly positives: readonly number[] }[]): Problem | undefined {
  for (const category of categories) {
    const names = category.levels.flatMap((level, index) => {
      const rows = category.rows[index] ?? 0;
      const positives = category.positives[index] ?? 0;
      return rows > 0 && (positives === 0 || positives === rows) ? [`${category.column} = ${level ?? "(missing)"}`] : [];
    });
    if (names.length > 0) {
      return problem("separated", `In the training rows every row with ${list(names)} has the same answer, so the coefficient would grow without bound.`, "Group rare categories in a derive step, exclude the column if it gives the answer away, or set a small ridge such as 0.001.");
    }
  }
  return undefined;
}

/** What forbids training, seen from the first counts alone: no rows, one class, gaps, values that are not finite. */
export function checkSummary(summary: FrameSummary): readonly Problem[] {
  if (summary.rows === 0) return [problem("no_rows", "There are no training rows.", "Look at rows.train and at the filters before it; the Braid shows where rows are lost.")];
  if (summary.unanswered > 0) return [problem("target_missing", `${summary.unanswered} training rows have no target.`, "Narrow rows.train to rows whose answer is known, or fill the target.")];
  if (summary.positives === 0 || summary.positives === summary.rows) {
    return [problem("one_class", `All ${summary.rows} training rows have the same answer (${summary.positives === 0 ? "negative" : "positive"}).`, "Check the target column and its positive value; two classes are needed to learn.")];
  }
  return summary.numbers.flatMap((each) => {
    if (each.missing > 0 && each.missing < summary.rows) return [problem("feature_missing", `The feature "${each.column}" is missing in ${each.missing} of ${summary.rows} training rows.`, "Add a fill step for it, or exclude it.")];
    if (each.missing === 0 && !Number.isFinite(each.deviation)) return [problem("not_finite", `The feature "${each.column}" holds infinite or not-a-number values.`, "Filter those rows, or derive a finite value.")];
    return [];
  });
}
