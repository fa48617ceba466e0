import { binary, cast, column, integer, NULL, text, type Expression } from "../expression/ast";
import {
  filter,
  keepColumns,
  outputColumns,
  project,
  withColumns,
  type NamedExpression,
  type Relation,
} from "../relation/relation";
import { freeName } from "../names/hidden";
import { DRAW_COLUMN, HIDDEN_COLUMNS, PART_COLUMN } from "../steps/step";
import { PlanBuilder, type LearnedValues } from "./build";
import type { CheckedPlan } from "./plan";
import { BLIND_PART, dividedRows, HOLDOUT_PART, TRAINING_PART, withSplit } from "./split";

/** What the parts are called where people read them. */
export const PARTS: ReadonlyMap<number, string> = new Map([
  [TRAINING_PART, "training"],
  [HOLDOUT_PART, "holdout"],
  [BLIND_PART, "blind"],
]);
export const OUTSIDE = "not in training";

/**
 * All rows of the main strand after some steps, with the part that each is in as the last column. Training rows have the values
 * that the learner gets of them (means of the answer without their own fold); all others those that scoring gives them.
 * @param after number of steps, behind the first one that learns
 */
export function partedRows(plan: CheckedPlan, learned: LearnedValues, after: number): Relation {
  const builder = new PlanBuilder(plan);
  const rows = builder.main({ learned, toStep: plan.learnsFrom });
  const trained = withSplit(dividedRows(plan, { learned, toStep: plan.learnsFrom }), plan, false);
  const untrained: Expression = { kind: "is", operand: plan.train, test: "true", negated: true };
  const others = withColumns(filter(rows, untrained), [
    { name: PART_COLUMN, expression: cast(NULL, "smallint") },
    { name: DRAW_COLUMN, expression: cast(NULL, "double precision") },
  ]);
  const start: Relation = { kind: "union", inputs: [trained, keepColumns(others, outputColumns(trained))] };
  const made = builder.main({ learned, fromStep: plan.learnsFrom, toStep: after, start });
  const names = outputColumns(made).filter((name) => !HIDDEN_COLUMNS.includes(name));
  const part: Expression = {
    kind: "case",
    branches: [...PARTS].map(([number, name]) => ({
      when: binary(column(PART_COLUMN), "=", integer(number)),
      then: text(name),
    })),
    otherwise: text(OUTSIDE),
  };
  const items = names.map((name): NamedExpression => ({ name, expression: column(name) }));
  return project(made, [...items, { name: freeName("part", names), expression: part }]);
}
