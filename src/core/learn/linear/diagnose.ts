import { formatNumber } from "../../format/numbers";
import { someNames, someOf } from "../../format/some-names";
import { problem, type Problem } from "../../problem";
import { shortenText } from "../../format/shorten-text";
import { termName, type Design } from "./design";
import type { FrameSummary } from "../questions";

/** What a message calls a term: levels may be long texts. */
const shortName = (term: Design["terms"][number]): string => shortenText(termName(term));

/** Names the columns behind a singular Hessian: one is a linear combination of others. */
export function collinear(design: Design, index: number, combination: Float64Array): Problem {
  const itself = shortName(design.terms[index]!);
  const most = combination.reduce((largest, value) => Math.max(largest, Math.abs(value)), 0);
  const others = [...combination].flatMap((value, other) =>
    Math.abs(value) > 1e-6 * Math.max(1, most) ? [shortName(design.terms[other]!)] : [],
  );
  const from = others.length === 0 ? "the other columns" : someNames(others);
  return problem(
    "collinear",
    `"${itself}" can be computed exactly from ${from}, so their coefficients cannot be determined.`,
    `Exclude one of them, or set a small ridge such as 0.001.`,
  );
}

/**
 * The terms that move most, for messages.
 * @param step by coefficient; of several classes one vector after the other
 */
function movingTerms(design: Design, step: Float64Array): readonly string[] {
  const size = design.terms.length;
  const most = step.reduce((largest, value) => Math.max(largest, Math.abs(value)), 0);
  const names = [...step].flatMap((value, index) =>
    index % size > 0 && Math.abs(value) > 0 && Math.abs(value) >= 0.2 * most
      ? [shortName(design.terms[index % size]!)]
      : [],
  );
  return names.length > 0 ? [...new Set(names)] : ["intercept"];
}

/** The same, as a list in words. */
export const listMoving = (design: Design, step: Float64Array): string =>
  someNames(movingTerms(design, step));

/** Says that terms separate the classes perfectly, in whole or in part, so that their coefficients run away. */
export function separation(names: readonly string[]): Problem {
  return problem(
    "separated",
    `The classes are separated: ${someNames(names)} ${names.length > 1 ? "together determine" : "determines"} the target of some rows perfectly, so the coefficient${names.length > 1 ? "s" : ""} would grow without bound.`,
    "If this column leaks the target, exclude it; if it is genuine, set a small ridge such as 0.001.",
  );
}

/** Names the columns whose coefficients run away. */
export const divergence = (design: Design, step: Float64Array): Problem =>
  separation(movingTerms(design, step));

/** Says that the passes were not enough, and which coefficients were still moving. */
export const notSettled = (design: Design, passes: number, step: Float64Array): Problem =>
  problem(
    "not_converged",
    `Training did not converge within ${passes} passes: the coefficients of ${listMoving(design, step)} were still changing.`,
    "Raise most_passes, or set a small ridge such as 0.001.",
  );

/** A category in which every row has the same answer has no finite coefficient. */
export function separatedLevels(
  categories: readonly {
    readonly column: string;
    readonly levels: readonly (string | null)[];
    readonly rows: readonly number[];
    readonly positives: readonly number[];
  }[],
): Problem | undefined {
  for (const category of categories) {
    const names = category.levels.flatMap((level, index) => {
      const rows = category.rows[index] ?? 0;
      const positives = category.positives[index] ?? 0;
      return rows > 0 && (positives === 0 || positives === rows)
        ? [`${category.column} = ${level ?? "(missing)"}`]
        : [];
    });
    if (names.length > 0) {
      return problem(
        "separated",
        `In the training rows every row with ${someNames(names)} has the same target value, so the coefficient would grow without bound.`,
        "Group rare categories in a step, exclude the column if it leaks the target, or set a small ridge such as 0.001.",
      );
    }
  }
  return undefined;
}

/** What forbids training, seen from the first counts alone: no rows, no target, bad weights. */
export function checkTarget(summary: FrameSummary): readonly Problem[] {
  if (summary.rows === 0)
    return [
      problem(
        "no_rows",
        "There are no training rows.",
        "Check rows.train and earlier filters; the Braid shows where rows are dropped.",
      ),
    ];
  if (summary.unanswered > 0)
    return [
      problem(
        "target_missing",
        `${formatNumber(summary.unanswered)} training rows have no target.`,
        "Restrict rows.train to rows whose target is known, or fill the target.",
      ),
    ];
  if (summary.badWeights > 0)
    return [
      problem(
        "bad_weight",
        `${formatNumber(summary.badWeights)} training rows have a weight that is missing, negative or not finite.`,
        "Derive a weight that is at least 0 everywhere.",
      ),
    ];
  if (!(summary.weight > 0))
    return [problem("no_weight", "All training rows have weight 0.", "Check the weight column.")];
  if (!Number.isFinite(summary.target.smallest) || !Number.isFinite(summary.target.largest))
    return [
      problem(
        "not_finite",
        "The target has infinite or NaN values.",
        "Filter those rows, or derive a finite target.",
      ),
    ];
  const there = summary.classes.filter((oneClass) => oneClass.rows > 0);
  if (summary.classes.length > 0 && there.length < 2) {
    const answer =
      summary.classes.length === 2 ? ` (${summary.classes[1]!.rows === 0 ? "negative" : "positive"})` : "";
    return [
      problem(
        "one_class",
        `All ${formatNumber(summary.rows)} training rows have the same target value${answer}.`,
        "Check the target column and its positive value; training needs two classes.",
      ),
    ];
  }
  if (summary.classes.length > 0 && summary.classes.filter((oneClass) => oneClass.weight > 0).length < 2)
    return [
      problem(
        "one_class",
        "All rows but those of one class have weight 0.",
        "Check the weight column; training needs two classes.",
      ),
    ];
  return [];
}

/** Features that are named in a sentence. */
const FEW = 5;

/** What forbids training a learner that takes a value of every feature in every row: besides {@link checkTarget}, gaps and values that are not finite. */
export function checkSummary(summary: FrameSummary, missing: "stop" | "mean"): readonly Problem[] {
  const found = checkTarget(summary);
  if (found.length > 0) return found;
  const { rows, numbers } = summary;
  const known = numbers.filter((feature) => feature.missing < rows);
  const gaps = missing === "stop" ? known.filter((feature) => feature.missing > 0) : [];
  const odd = known.filter((feature) => !gaps.includes(feature) && !Number.isFinite(feature.deviation));
  return [...gapProblems(gaps, rows), ...oddProblems(odd.map(({ column }) => column))];
}

function gapProblems(gaps: FrameSummary["numbers"], rows: number): readonly Problem[] {
  const [first] = gaps;
  if (!first) return [];
  const listed = gaps.map(({ column, missing }) => `"${column}" (${formatNumber(missing)})`);
  return [
    problem(
      "feature_missing",
      gaps.length === 1
        ? `The feature "${first.column}" is missing in ${formatNumber(first.missing)} of ${formatNumber(rows)} training rows.`
        : `${formatNumber(gaps.length)} features have missing values in the ${formatNumber(rows)} training rows: ${someOf(listed, FEW)}.`,
      `Add a fill step for ${gaps.length === 1 ? "it, exclude it," : "all of them,"} or set missing: mean in the candidate's settings.`,
    ),
  ];
}

function oddProblems(names: readonly string[]): readonly Problem[] {
  if (names.length === 0) return [];
  return [
    problem(
      "not_finite",
      names.length === 1
        ? `The feature "${names[0]!}" has infinite or NaN values.`
        : `${formatNumber(names.length)} features have infinite or NaN values: ${someNames(names, FEW)}.`,
      "Filter those rows, or derive a finite value.",
    ),
  ];
}
