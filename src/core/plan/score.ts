import { binary, cast, column, double, integer, text, when, type Expression } from "../expression/ast";
import { columnsOf } from "../expression/visit";
import { logOddsExpression, probabilityExpression, type LogisticModel } from "../learn/logistic-model";
import { prune } from "../relation/prune";
import { fence, filter, label, project, type NamedExpression, type Relation, type TableReference, table } from "../relation/relation";
import { PART_COLUMN } from "../steps/step";
import { PlanBuilder, type LearnedValues } from "./build";
import { numberExpressions, TARGET_COLUMN, type FrameShape } from "./frame";
import type { CheckedPlan } from "./plan";
import { HOLDOUT_PART } from "./split";

export const LOG_ODDS_COLUMN = "ravlen_log_odds";
export const PROBABILITY_COLUMN = "probability";
export const PREDICTION_COLUMN = "prediction";

export interface ScoreOptions {
  readonly learned: LearnedValues;
  readonly model: LogisticModel;
  readonly threshold: number;
  /** Further columns to pass through. */
  readonly columns: readonly string[];
  /** Constants written to every row: model version, run, times. */
  readonly stamps: readonly NamedExpression[];
}

/**
 * Rows to score with their predictions, as one query: every step with what it learned in training, then the model.
 * The probability is NULL where a number the model needs is missing.
 */
export function scoreRelation(plan: CheckedPlan, options: ScoreOptions): Relation {
  const rows = label(filter(new PlanBuilder(plan).main({ learned: options.learned }), plan.score), "rows to score");
  const { key } = plan.file.roles;
  const odds = logOddsExpression(options.model, numberExpressions(plan, options.learned));
  const kept = [...key, ...options.columns];
  const needed = new Set([...kept, ...columnsOf(odds)]);
  const scored = label(project(prune(rows, needed), [...kept.map((name) => ({ name, expression: column(name) })), { name: LOG_ODDS_COLUMN, expression: odds }]), "log odds");
  const withProbability = fence(label(project(fence(scored), [
    ...kept.map((name) => ({ name, expression: column(name) })),
    { name: PROBABILITY_COLUMN, expression: probabilityExpression(column(LOG_ODDS_COLUMN)) },
  ]), "probabilities"));
  return project(withProbability, [
    ...key.map((name) => ({ name, expression: column(name) })),
    { name: PREDICTION_COLUMN, expression: binary(column(PROBABILITY_COLUMN), ">=", double(options.threshold)) },
    { name: PROBABILITY_COLUMN, expression: column(PROBABILITY_COLUMN) },
    ...options.columns.map((name) => ({ name, expression: column(name) })),
    ...options.stamps,
  ]);
}

/** The holdout part of a frame with the model's probability; kept with the version, so that it can be judged at any time. */
export function scoredHoldoutRelation(plan: CheckedPlan, shape: FrameShape, model: LogisticModel, frame: TableReference): Relation {
  const { key } = plan.file.roles;
  const features = [...shape.numbers, ...shape.categories.map((each) => each.column)];
  const rows = filter(table(frame, [...key, PART_COLUMN, TARGET_COLUMN, ...features]), binary(column(PART_COLUMN), "=", integer(HOLDOUT_PART)));
  // In the frame a category is its code, so the texts are put back for people and for the model.
  const decoded = project(rows, [
    ...key.map((name) => ({ name, expression: column(name) })),
    { name: TARGET_COLUMN, expression: column(TARGET_COLUMN) },
    ...shape.numbers.map((name) => ({ name, expression: column(name) })),
    ...shape.categories.map((each) => ({ name: each.column, expression: decode(each) })),
  ]);
  const odds = logOddsExpression(model, column);
  const kept = [...key, TARGET_COLUMN, ...features].map((name) => ({ name, expression: column(name) }));
  const scored = fence(label(project(fence(label(decoded, "holdout")), [...kept, { name: LOG_ODDS_COLUMN, expression: odds }]), "log odds"));
  return project(scored, [...kept, { name: PROBABILITY_COLUMN, expression: probabilityExpression(column(LOG_ODDS_COLUMN)) }]);
}

function decode(category: { readonly column: string; readonly levels: readonly (string | null)[] }): Expression {
  const branches = category.levels.flatMap((level, index) => (level === null ? [] : [{ when: integer(index + 1), then: text(level) }]));
  const nullCode = category.levels.indexOf(null) + 1;
  const other = text("(never seen in training)");
  const otherwise = nullCode > 0 ? when(binary(column(category.column), "=", integer(nullCode)), cast({ kind: "literal", type: "null" }, "text"), other) : other;
  return branches.length === 0 ? otherwise : { kind: "case", subject: column(category.column), branches, otherwise };
}

