import { call, cast, column, countRows, isNotNull, text, type Expression } from "../expression/ast";
import { columnsOf } from "../expression/visit";
import { formatNumber } from "../format/numbers";
import type { PipelineFile } from "../pipeline/schema";
import { problem, warning, type Problem } from "../problem";
import { prune } from "../relation/prune";
import { aggregateRows, withColumns, type Relation } from "../relation/relation";
import { hidden } from "../names/hidden";
import { FOLD_COLUMN, PART_COLUMN } from "../steps/step";
import type { LearnedValues } from "./build";
import { prepared, type FrameRows } from "./frame";
import type { CheckedPlan } from "./plan";
import { BLIND_PART, foldsOf, HOLDOUT_PART, TRAINING_PART } from "./split";

const CLASS = hidden("class");

/** Rows of one side, fold and class; of numbers all that have an answer are one class. */
export interface FilledPart {
  readonly part: number;
  /** 0 where there are no folds. */
  readonly fold: number;
  /** The class as text, the same for all numbers; null without an answer. */
  readonly answer: string | null;
  readonly rows: number;
  /** Different groups, where whole groups are held out; else 0. */
  readonly groups: number;
}

/** Counts rows and groups by side, fold and class, before anything is trained: one row each. */
export function partsRelation(plan: CheckedPlan, learned: LearnedValues, from: FrameRows): Relation {
  const { roles } = plan.file;
  const answer = roles.target.kind === "number" ? isKnown(plan.target) : cast(plan.target, "text");
  const rows = withColumns(prepared(plan, learned, from), [{ name: CLASS, expression: answer }]);
  const by = [PART_COLUMN, ...(from.folds ? [FOLD_COLUMN] : []), CLASS];
  const counted = aggregateRows(rows, by, [
    { name: "rows", expression: countRows },
    ...(roles.group === undefined
      ? []
      : [{ name: "groups", expression: { ...call("count", column(roles.group)), distinct: true } }]),
  ]);
  return prune(counted, new Set([...by, "rows", "groups", ...columnsOf(answer)]));
}

/** One text for all rows with an answer, NULL for the others. */
const isKnown = (target: Expression): Expression => ({
  kind: "case",
  branches: [{ when: isNotNull(target), then: text("known") }],
});

/** Reads the answer to {@link partsRelation}. */
export const readParts = (rows: readonly Readonly<Record<string, unknown>>[]): readonly FilledPart[] =>
  rows.map((row) => ({
    part: Number(row[PART_COLUMN]),
    fold: Number(row[FOLD_COLUMN] ?? 0),
    answer: row[CLASS] === null ? null : String(row[CLASS]),
    rows: Number(row["rows"]),
    groups: Number(row["groups"] ?? 0),
  }));

const total = (parts: readonly FilledPart[]): number => parts.reduce((sum, part) => sum + part.rows, 0);
const classesIn = (parts: readonly FilledPart[]): ReadonlySet<string> =>
  new Set(parts.flatMap((part) => (part.answer === null || part.rows === 0 ? [] : [part.answer])));

/** What to do about a part that has no rows, by the way in which they are told apart. */
const WIDENED: Readonly<Record<PipelineFile["holdout"]["by"], string>> = {
  key: "Widen holdout.share, or check rows.train.",
  stratified: "Widen holdout.share, or check rows.train.",
  group: "Widen holdout.share, or check rows.train.",
  time: "Set an earlier holdout.from, or check rows.train.",
  named: "List existing groups under holdout.groups, or check rows.train.",
  condition: "Widen the condition holdout.where, or check rows.train.",
  table: "Load the holdout table, or check the steps that its rows pass through.",
  none: "",
};

/** That there is no row to judge on. */
export const emptyHoldout = ({ by }: PipelineFile["holdout"]): Problem =>
  problem("empty_holdout", "The holdout is empty, so the model cannot be evaluated.", WIDENED[by]);

/**
 * What cannot be judged, or learned from, with rows as they were counted: errors where no version could come of it, warnings where
 * the version is good but its figures are not what the file asks for.
 * @param searches whether a search ranks settings by the folds, which then all have to be filled
 */
export function unfilledParts(
  file: PipelineFile,
  parts: readonly FilledPart[],
  folded: boolean,
  searches: boolean,
): readonly Problem[] {
  const sides = (part: number): readonly FilledPart[] => parts.filter((onePart) => onePart.part === part);
  const [training, holdout, blind] = [sides(TRAINING_PART), sides(HOLDOUT_PART), sides(BLIND_PART)];
  const found: Problem[] = [];
  // Without any row the learner says what is wrong.
  if (total(parts) === 0) return found;
  const { by } = file.holdout;
  if (by !== "none" && total(holdout) === 0) found.push(emptyHoldout(file.holdout));
  else if (by !== "none" && classesIn(holdout).size === 0)
    found.push(
      problem(
        "empty_holdout",
        "No holdout row has a target, so the model cannot be evaluated.",
        "Check rows.train and the target.",
      ),
    );
  if (file.holdout.blind && total(blind) === 0)
    found.push(
      warning(
        "empty_blind",
        "The blind holdout is empty.",
        "Widen holdout.blind, or remove it from the file.",
      ),
    );
  if (folded) found.push(...unfilledFolds(file, training, searches));
  return found;
}

function unfilledFolds(
  file: PipelineFile,
  training: readonly FilledPart[],
  searches: boolean,
): readonly Problem[] {
  const { by, count } = foldsOf(file);
  const forward = by === "time";
  const folds = Array.from({ length: count }, (_, index) => (forward ? index + 1 : index));
  const isPoor = (fold: number): boolean => {
    const judged = training.filter((row) => row.fold === fold && row.answer !== null);
    const learned = training.filter((row) => (forward ? row.fold < fold : row.fold !== fold));
    const least = file.roles.target.kind === "number" ? 1 : 2;
    return total(judged) === 0 || classesIn(learned).size < least;
  };
  const poor = folds.flatMap((fold, index) => (isPoor(fold) ? [index + 1] : []));
  if (poor.length === 0) return [];
  const which = `${poor.length === 1 ? "Fold" : "Folds"} ${poor.join(", ")} of ${count}`;
  const groups = by === "group" ? `; there are ${formatNumber(groupsIn(training))} groups to distribute` : "";
  const say = searches ? problem : warning;
  return [
    say(
      "empty_fold",
      `${which} cannot be evaluated: no row with a target in ${poor.length === 1 ? "it" : "them"}, or too few other rows to train on${groups}.`,
      count - poor.length >= 2
        ? `Set folds.count to ${count - poor.length}.`
        : "Use other folds, or more rows.",
    ),
  ];
}

/** Groups among training rows: each is in one fold as a whole, so that folds add up. */
function groupsIn(training: readonly FilledPart[]): number {
  const byFold = new Map<number, number>();
  for (const row of training) byFold.set(row.fold, Math.max(byFold.get(row.fold) ?? 0, row.groups));
  return [...byFold.values()].reduce((sum, groups) => sum + groups, 0);
}
