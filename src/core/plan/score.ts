import { hidden } from "../names/hidden";
import { allOf, binary, cast, column, double, integer, NULL, text, type Expression } from "../expression/ast";
import { columnsOf } from "../expression/visit";
import { columnsRead } from "../learn/model-kinds";
import type { Model } from "../learn/model";
import { scoringProgram } from "../learn/scoring";
import type { ScoringProgram } from "../learn/scoring-program";
import { outputsOf, type Task } from "../learn/task";
import { UNKNOWN_CLASS } from "../evaluate/figures";
import { prune, pruneUnread } from "../relation/prune";
import {
  fence,
  filter,
  label,
  outputColumns,
  project,
  withColumns,
  type NamedExpression,
  type Relation,
  type TableReference,
  table,
} from "../relation/relation";
import { indicatorName } from "../steps/encode";
import { DRAW_COLUMN, FOLD_COLUMN, PART_COLUMN } from "../steps/step";
import { PlanBuilder, type LearnedValues } from "./build";
import {
  computedOnce,
  numberExpressions,
  plainColumns,
  prepared,
  targetExpression,
  taskOf,
  type FrameRows,
  type FrameShape,
} from "./frame";
import { TARGET_COLUMN } from "./frame-columns";
import { originalsOf, type Original } from "./originals";
import type { CheckedPlan } from "./plan";
import type { BLIND_PART, FOLD_PART, HOLDOUT_PART, TRAINING_PART } from "./split";

export const PROBABILITY_COLUMN = "probability";
export const PREDICTION_COLUMN = "prediction";
/** Type of the predicted value by kind of target. */
export const PREDICTION_TYPES = { binary: "boolean", number: "double precision", classes: "text" } as const;
export const REASONS_COLUMN = "reasons";

/** Hidden name of one number of a prediction. */
export const outputColumn = (index: number): string => hidden(`output_${index}`);
/** Names of all numbers of a prediction. */
export const outputNames = (task: Task): readonly string[] =>
  Array.from({ length: outputsOf(task) }, (_, index) => outputColumn(index));
/** Whether a column is one of them. */
export const isOutputColumn = (name: string): boolean => name.startsWith(hidden("output_"));

/** Name of the column with the probability of a class, in prediction tables. */
const classColumn = (name: string, index: number): string => indicatorName(PROBABILITY_COLUMN, name, index);

/** Rows with the numbers of their prediction: the kept columns, then those of the outputs. */
export function predicted(rows: Relation, kept: readonly string[], program: ScoringProgram): Relation {
  const made = new Set(program.stages.flat().map((named) => named.name));
  const read = [...program.stages.flat().map((named) => named.expression), ...program.outputs]
    .flatMap((node) => columnsOf(node))
    .filter((name) => !made.has(name));
  let relation = fence(prune(rows, new Set([...kept, ...read])));
  for (const stage of program.stages) relation = fence(label(withColumns(relation, stage), "predictor"));
  const outputs = program.outputs.map((expression, index): NamedExpression => ({
    name: outputColumn(index),
    expression,
  }));
  const last = fence(
    label(
      project(relation, [...kept.map((name) => ({ name, expression: column(name) })), ...outputs]),
      "predictions",
    ),
  );
  return pruneUnread(last);
}

/** What people read, in terms of the numbers of the prediction. */
function readableOutputs(task: Task, threshold: number): readonly NamedExpression[] {
  const output = (index: number): Expression => column(outputColumn(index));
  if (task.kind === "number") return [{ name: PREDICTION_COLUMN, expression: output(0) }];
  if (task.kind === "binary")
    return [
      { name: PREDICTION_COLUMN, expression: binary(output(0), ">=", double(threshold)) },
      { name: PROBABILITY_COLUMN, expression: output(0) },
    ];
  const all = task.classes.map((_, index) => output(index));
  const most: Expression = all.length === 1 ? all[0]! : { kind: "call", name: "greatest", args: all };
  const branches = task.classes.map((name, index) => ({
    when: binary(output(index), "=", most),
    then: text(name),
  }));
  return [
    { name: PREDICTION_COLUMN, expression: { kind: "case", branches, otherwise: cast(NULL, "text") } },
    { name: PROBABILITY_COLUMN, expression: most },
    ...task.classes.map((name, index) => ({ name: classColumn(name, index), expression: output(index) })),
  ];
}

export interface ScoreOptions {
  readonly learned: LearnedValues;
  readonly shape: FrameShape;
  readonly model: Model;
  readonly threshold: number;
  /** Further columns to pass through. */
  readonly columns: readonly string[];
  /** Constants written to every row: model version, run, times. */
  readonly stamps: readonly NamedExpression[];
  /** Where predictions come from a table, because the model is too large for a statement: key columns and outputs. */
  readonly from?: TableReference;
  /** Whether that table has reasons, which are delivered too. */
  readonly reasons?: boolean;
  /** Narrows the rows that qualify to those that are wanted. */
  readonly narrow?: (rows: Relation) => Relation;
}

function rowsToScore(plan: CheckedPlan, learned: LearnedValues, narrow: ScoreOptions["narrow"]): Relation {
  const rows = filter(new PlanBuilder(plan).main({ learned }), plan.score);
  return narrow ? narrow(rows) : rows;
}

/**
 * Rows to score with their predictions, as one query: every step with what it learned in training, then the model.
 * Predictions are NULL where a number the model needs is missing.
 */
export function scoreRelation(plan: CheckedPlan, options: ScoreOptions): Relation {
  const { key } = plan.file.roles;
  const task = taskOf(plan, options.shape);
  const kept = [...key, ...options.columns];
  const outputs = options.from
    ? table(
        options.from,
        [
          ...kept,
          ...readableOutputs(task, 0).flatMap((readableOutput) => columnsOf(readableOutput.expression)),
          ...(options.reasons ? [REASONS_COLUMN] : []),
        ].filter((name, index, all) => all.indexOf(name) === index),
      )
    : undefined;
  const rows = label(rowsToScore(plan, options.learned, options.narrow), "rows to score");
  const scored =
    outputs ?? predicted(rows, kept, scoringProgram(options.model, numberExpressions(plan, options.learned)));
  return project(scored, [
    ...key.map((name) => ({ name, expression: column(name) })),
    ...readableOutputs(task, options.threshold),
    ...(options.reasons ? [{ name: REASONS_COLUMN, expression: column(REASONS_COLUMN) }] : []),
    ...options.columns.map((name) => ({ name, expression: column(name) })),
    ...options.stamps,
  ]);
}

/** Features of the model as it reads them, under their own names: numbers as numbers, categories as text. */
function featureItems(plan: CheckedPlan, learned: LearnedValues, model: Model): readonly NamedExpression[] {
  const { numbers, categories } = columnsRead(model);
  const number = numberExpressions(plan, learned);
  return [
    ...[...numbers].map((name) => ({ name, expression: number(name) })),
    ...[...categories].map((name) => ({ name, expression: cast(column(name), "text") })),
  ];
}

/** Rows to score with the features of the model, for a model that scores by streaming: kept columns, then features. */
export function inputRelation(
  plan: CheckedPlan,
  learned: LearnedValues,
  model: Model,
  kept: readonly string[],
  narrow?: (rows: Relation) => Relation,
): Relation {
  const rows = rowsToScore(plan, learned, narrow);
  const items = [
    ...kept.map((name) => ({ name, expression: column(name) })),
    ...featureItems(plan, learned, model).filter((featureItem) => !kept.includes(featureItem.name)),
  ];
  return project(
    computedOnce(plan, prune(rows, new Set(items.flatMap((named) => columnsOf(named.expression))))),
    items,
  );
}

/** What a version has to say about rows, whatever is to be done with it. */
export interface AnsweringVersion {
  readonly learned: LearnedValues;
  readonly shape: FrameShape;
  readonly model: Model;
  readonly threshold: number;
}

/** The prediction of rows that are given as they are before the first step that learns: prediction, and probabilities. */
export function predictGiven(
  plan: CheckedPlan,
  { learned, shape, model, threshold }: AnsweringVersion,
  given: string,
): Relation {
  const { output } = plan.main;
  const before = plan.main.steps[plan.learnsFrom]?.input ?? output;
  const rows = new PlanBuilder(plan).main({
    learned,
    fromStep: plan.learnsFrom,
    start: { kind: "given", name: given, columns: [...before.keys()] },
  });
  return project(
    predicted(rows, [], scoringProgram(model, numberExpressions(plan, learned))),
    readableOutputs(taskOf(plan, shape), threshold),
  );
}

/** The features of rows that are given as they are before the first step that learns, as the model reads them. */
export function featuresGiven(
  plan: CheckedPlan,
  { learned, model }: Pick<AnsweringVersion, "learned" | "model">,
  given: string,
): Relation {
  const before = plan.main.steps[plan.learnsFrom]?.input ?? plan.main.output;
  const rows = new PlanBuilder(plan).main({
    learned,
    fromStep: plan.learnsFrom,
    start: { kind: "given", name: given, columns: [...before.keys()] },
  });
  const items = featureItems(plan, learned, model);
  return project(
    computedOnce(plan, prune(rows, new Set(items.flatMap((named) => columnsOf(named.expression))))),
    items,
  );
}

/** Names and types of what a prediction consists of, in order. */
export function predictionColumns(
  task: Task,
): readonly { readonly name: string; readonly type: "boolean" | "double precision" | "text" }[] {
  const prediction = {
    name: PREDICTION_COLUMN,
    type: PREDICTION_TYPES[task.kind],
  } as const;
  return [
    prediction,
    ...readableOutputs(task, 0)
      .slice(1)
      .map(({ name }) => ({ name, type: "double precision" as const })),
  ];
}

export interface JudgedRows {
  readonly shape: FrameShape;
  readonly learned: LearnedValues;
  readonly model: Model;
  readonly rows: FrameRows;
  readonly part: typeof TRAINING_PART | typeof HOLDOUT_PART | typeof BLIND_PART | typeof FOLD_PART;
  /** The share of the rows that is taken, drawn at random; all of them when left out. */
  readonly share?: number;
}

/** The answer of a judged row: of several classes, one that training lacks is an answer too, which no prediction meets. */
function judgedTarget(plan: CheckedPlan, shape: FrameShape): Expression {
  const answer = targetExpression(plan, shape);
  return answer.kind === "lookup" ? { ...answer, otherwise: double(UNKNOWN_CLASS) } : answer;
}

/** Numbers and originals that fit into a row of the judged rows. */
const MOST_WITH_ORIGINALS = 850;

/** The originals that judged rows keep: as many as there is room for beside the features. */
export const keptOriginals = (plan: CheckedPlan, shape: Pick<FrameShape, "numbers">): readonly Original[] =>
  originalsOf(plan).slice(0, Math.max(0, MOST_WITH_ORIGINALS - shape.numbers.length));

/** What a table of judged rows holds, in order: key, target, numbers of the prediction, features, every other plain column, originals. */
export function judgedRelation(
  plan: CheckedPlan,
  { shape, learned, model, rows: from, part, share = 1 }: JudgedRows,
  withOutputs = true,
): Relation {
  const { key } = plan.file.roles;
  const number = numberExpressions(plan, learned);
  const features: readonly NamedExpression[] = [
    ...shape.numbers.map((name) => ({ name, expression: number(name) })),
    ...shape.categories.map(({ column: name }) => ({ name, expression: cast(column(name), "text") })),
  ].filter((named) => !key.includes(named.name));
  const names = new Set(features.map((feature) => feature.name));
  const {
    target: { column: targetColumn, kind },
  } = plan.file.roles;
  const others = plainColumns(plan).filter(
    (name) => !names.has(name) && !key.includes(name) && (name !== targetColumn || kind !== "number"),
  );
  const { leftOut } = from;
  const rows = filter(
    prepared(plan, learned, from),
    allOf([
      binary(column(PART_COLUMN), "=", integer(part)),
      ...(leftOut ? [binary(column(FOLD_COLUMN), "=", integer(leftOut.fold))] : []),
      ...(share < 1 ? [binary(column(DRAW_COLUMN), "<", double(share))] : []),
    ]),
  );
  const target: NamedExpression = { name: TARGET_COLUMN, expression: judgedTarget(plan, shape) };
  const items: readonly NamedExpression[] = [
    ...key.map((name) => ({ name, expression: column(name) })),
    target,
    ...features,
    ...others.map((name) => ({ name, expression: column(name) })),
    ...keptOriginals(plan, shape).map(({ copy }) => ({ name: copy, expression: column(copy) })),
  ];
  const plain = label(
    project(
      computedOnce(plan, prune(rows, new Set(items.flatMap((named) => columnsOf(named.expression))))),
      items,
    ),
    "evaluated rows",
  );
  if (!withOutputs) return plain;
  const kept = outputColumns(plain);
  const scored = predicted(plain, kept, scoringProgram(model, column));
  const place = (name: string): number => {
    if (key.includes(name) || name === TARGET_COLUMN) return 0;
    return isOutputColumn(name) ? 1 : 2;
  };
  return project(
    scored,
    [...outputColumns(scored)]
      .sort((left, right) => place(left) - place(right))
      .map((name) => ({ name, expression: column(name) })),
  );
}
