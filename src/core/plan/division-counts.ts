import { call, cast, column, countRows } from "../expression/ast";
import { columnsOf } from "../expression/visit";
import { prune } from "../relation/prune";
import { aggregateRows, filter, project, type Relation } from "../relation/relation";
import { PART_COLUMN } from "../steps/step";
import { PlanBuilder } from "./build";
import { baseRelation } from "./frame";
import type { CheckedPlan } from "./plan";

/** Rows and groups of each part: (part, rows, groups), before anything is learned. Groups only where a column has that role. */
export function partSizes(plan: CheckedPlan): Relation {
  const { group } = plan.file.roles;
  const counted = aggregateRows(
    baseRelation(plan),
    [PART_COLUMN],
    [
      { name: "rows", expression: countRows },
      ...(group === undefined
        ? []
        : [{ name: "groups", expression: { ...call("count", column(group)), distinct: true } }]),
    ],
  );
  return pruned(counted);
}

/** Rows of each group in each part: (part, value, rows), the value as text. */
export function groupParts(plan: CheckedPlan, group: string): Relation {
  const rows = project(baseRelation(plan), [
    { name: PART_COLUMN, expression: column(PART_COLUMN) },
    { name: "value", expression: cast(column(group), "text") },
  ]);
  return pruned(aggregateRows(rows, [PART_COLUMN, "value"], [{ name: "rows", expression: countRows }]));
}

/** Rows of each class in each part: (part, value, rows), the class as text; undefined where the answer is made only by a step that learns. */
export function classParts(plan: CheckedPlan): Relation | undefined {
  const before = plan.main.steps[plan.learnsFrom]?.input ?? plan.main.output;
  const { output } = plan.main;
  const known = columnsOf(plan.target).every(
    (name) => before.get(name)?.identity === output.get(name)?.identity,
  );
  if (plan.file.roles.target.kind === "number" || !known) return undefined;
  const rows = project(baseRelation(plan), [
    { name: PART_COLUMN, expression: column(PART_COLUMN) },
    { name: "value", expression: cast(plan.target, "text") },
  ]);
  return pruned(aggregateRows(rows, [PART_COLUMN, "value"], [{ name: "rows", expression: countRows }]));
}

/** How often the answer has each of its values: (value, rows), as text; undefined where it says by itself what is positive, or is not known yet. */
export function answerValues(plan: CheckedPlan): Relation | undefined {
  const { column: name, kind } = plan.file.roles.target;
  const before = plan.main.steps[plan.learnsFrom]?.input ?? plan.main.output;
  const state = before.get(name);
  if (kind !== "binary" || !state || state.type === "boolean") return undefined;
  const asked = filter(rowsBefore(plan), plan.sides?.asked ?? plan.train);
  const rows = project(asked, [{ name: "value", expression: cast(column(name), "text") }]);
  return pruned(aggregateRows(rows, ["value"], [{ name: "rows", expression: countRows }]));
}

/** How many rows would train but for an answer that is neither positive nor negative: (rows), undefined where all answers count. */
export function leftOutRows(plan: CheckedPlan): Relation | undefined {
  if (!plan.sides) return undefined;
  const left = filter(rowsBefore(plan), plan.sides.leftOut);
  return pruned(aggregateRows(left, [], [{ name: "rows", expression: countRows }]));
}

/** Rows of the main strand before anything is learned. */
const rowsBefore = (plan: CheckedPlan): Relation =>
  new PlanBuilder(plan).main({ learned: {}, toStep: plan.learnsFrom });

const pruned = (relation: Relation): Relation =>
  prune(relation, new Set([PART_COLUMN, "value", "rows", "groups"]));
