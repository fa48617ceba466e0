import { formatNumber } from "../format/numbers";
import { someOf } from "../format/some-names";
import type { Candidate } from "../pipeline/schema";
import { problem, warning, type Problem } from "../problem";
import type { CheckedPlan } from "./plan";
import type { FeatureFacts, TrainingFacts } from "./training-facts";

/** How something that stands in the way of a training can be mended for all columns at once. */
export type Mend =
  | { readonly kind: "fill"; readonly medians: readonly string[]; readonly frequent: readonly string[] }
  | { readonly kind: "leave_out"; readonly columns: readonly string[]; readonly because: string };

/** Something in the training rows that a training would stop at, or leave out; known before it begins. */
export interface Obstacle {
  readonly problem: Problem;
  /** The candidates that it concerns, where others do not mind. */
  readonly candidates: readonly string[];
  readonly mend?: Mend;
}

/** What an obstacle is, with the candidates that it stops where it does not stop all. */
export function obstacleWords({ problem: { message }, candidates }: Obstacle): string {
  if (candidates.length === 0) return message;
  return `${message} This stops ${candidates.map((name) => `“${name}”`).join(" and ")}.`;
}

/** Names that are listed in a sentence. */
const FEW = 5;
/** Most classes of an answer; a training stops at more. */
export const MOST_CLASSES = 200;

const listed = (features: readonly FeatureFacts[], counts = false): string =>
  someOf(
    features.map(({ name, missing }) => `"${name}"${counts ? ` (${formatNumber(missing)})` : ""}`),
    FEW,
  );

const counted = (features: readonly FeatureFacts[], one: string, many: string): string =>
  features.length === 1 ? one : `${formatNumber(features.length)} ${many}`;

/** What the training rows have in store for the candidates of a plan, problems of one kind as one. */
export function obstaclesOf(plan: CheckedPlan, facts: TrainingFacts): readonly Obstacle[] {
  if (facts.rows === 0)
    return [
      {
        problem: problem(
          "no_rows",
          "No training rows: none has a target, or all are held out.",
          "Check the condition for training rows, and the holdout.",
        ),
        candidates: [],
      },
    ];
  return [
    ...answerObstacles(plan, facts),
    ...gapObstacles(plan.file.candidates, facts),
    ...levelObstacles(plan.file.candidates, facts),
    ...constantObstacles(facts),
  ];
}

function answerObstacles(plan: CheckedPlan, { answer, rows }: TrainingFacts): readonly Obstacle[] {
  const { column, kind } = plan.file.roles.target;
  const found: Problem[] = [];
  if (answer.missing > 0)
    found.push(
      problem(
        "target_missing",
        `${formatNumber(answer.missing)} of ${formatNumber(rows)} training rows have no "${column}".`,
        "Restrict the training rows to those with a target.",
      ),
    );
  if (answer.different < 2)
    found.push(
      problem(
        kind === "number" ? "constant_target" : "one_class",
        `All ${formatNumber(rows)} training rows have the same target value.`,
        "Check the target, and the condition for training rows.",
      ),
    );
  if (kind === "classes" && answer.different > MOST_CLASSES)
    found.push(
      problem(
        "too_many_classes",
        `"${column}" has ${formatNumber(answer.different)} classes in the training rows; at most ${MOST_CLASSES} are supported.`,
        "Group rare ones in an earlier step, or predict a number.",
      ),
    );
  return found.map((problem) => ({ problem, candidates: [] }));
}

/** Gaps that stop learners which need a value of every feature in every row. */
function gapObstacles(
  candidates: readonly Candidate[],
  { features, rows }: TrainingFacts,
): readonly Obstacle[] {
  const stopped = candidates.filter(({ settings }) => "missing" in settings && settings.missing === "stop");
  const gaps = features.filter(({ kind, missing }) => kind === "number" && missing > 0 && missing < rows);
  if (stopped.length === 0 || gaps.length === 0) return [];
  const [medians, frequent] = [
    gaps.filter(({ type }) => type !== "boolean"),
    gaps.filter(({ type }) => type === "boolean"),
  ].map((some) => some.map(({ name }) => name)) as [string[], string[]];
  return [
    {
      problem: problem(
        "feature_missing",
        gaps.length === 1
          ? `The feature ${listed(gaps)} is missing in ${formatNumber(gaps[0]!.missing)} of ${formatNumber(rows)} training rows.`
          : `${formatNumber(gaps.length)} features have missing values in the ${formatNumber(rows)} training rows: ${listed(gaps, true)}.`,
        "Fill the missing values, or set missing: mean in the candidate's settings.",
      ),
      candidates: stopped.length === candidates.length ? [] : stopped.map(({ name }) => name),
      mend: { kind: "fill", medians, frequent },
    },
  ];
}

/** Texts with more values than a learner codes. */
function levelObstacles(candidates: readonly Candidate[], { features }: TrainingFacts): readonly Obstacle[] {
  const least = Math.min(
    ...candidates.map(({ settings }) => ("most_levels" in settings ? settings.most_levels : Infinity)),
  );
  const wordy = features.filter(({ kind, different }) => kind === "category" && different > least);
  if (wordy.length === 0) return [];
  const stopped = candidates.filter(
    ({ settings }) =>
      "most_levels" in settings && wordy.some(({ different }) => different > settings.most_levels),
  );
  return [
    {
      problem: problem(
        "too_many_levels",
        `${counted(wordy, `The text ${listed(wordy)} has`, "texts have")} more than ${formatNumber(least)} different values${wordy.length === 1 ? "" : `: ${listed(wordy)}`}.`,
        "Exclude names and comments, group rare values, or use a text terms step.",
      ),
      candidates: stopped.length === candidates.length ? [] : stopped.map(({ name }) => name),
      mend: {
        kind: "leave_out",
        columns: wordy.map(({ name }) => name),
        because: "nearly all values are different",
      },
    },
  ];
}

/** Features that say nothing, because they hold one value or none. */
function constantObstacles({ features, rows }: TrainingFacts): readonly Obstacle[] {
  const says = (some: readonly FeatureFacts[], what: string, because: string): readonly Obstacle[] =>
    some.length === 0
      ? []
      : [
          {
            problem: warning(
              "constant_feature",
              some.length === 1
                ? `The feature ${listed(some)} has ${what} in the training rows.`
                : `${formatNumber(some.length)} features have ${what} in the training rows: ${listed(some)}.`,
              "Algorithms ignore such features. Exclude them, or find out why they do not vary.",
            ),
            candidates: [],
            mend: { kind: "leave_out", columns: some.map(({ name }) => name), because },
          },
        ];
  const empty = features.filter(({ missing }) => missing === rows);
  const constant = features.filter(
    ({ missing, different, kind }) => missing < rows && different < 2 && (kind === "number" || missing === 0),
  );
  return [
    ...says(empty, "no value", "no value in the training rows"),
    ...says(constant, "a single value", "a single value in the training rows"),
  ];
}
