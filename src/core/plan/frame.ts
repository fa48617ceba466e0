import { hidden, isHidden } from "../names/hidden";
import { allOf, cast, column, double, isNotNull, NULL, when, type Expression } from "../expression/ast";
import { columnsOf } from "../expression/visit";
import {
  aggregateRows,
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
import { prune, pruneUnread } from "../relation/prune";
import { belongsTo, DRAW_COLUMN, FOLD_COLUMN, PART_COLUMN, type LearnQuestion } from "../steps/step";
import type { Task } from "../learn/task";
import { binary, countRows, integer } from "../expression/ast";
import { PlanBuilder, readsOf, type LearnedValues } from "./build";
import { originalsOf } from "./originals";
import type { CheckedPlan, SourceUse } from "./plan";
import { termColumns } from "./terms";
import { MOMENT_COLUMN, TARGET_COLUMN, WEIGHT_COLUMN } from "./frame-columns";
import { dividedRows, FOLD_PART, TRAINING_PART, withSplit } from "./split";

export { TARGET_COLUMN } from "./frame-columns";

/** A category column with the codes its values get in the frame: code 1 is the first level. NULL is a level when it occurs. */
export interface CategoryLevels {
  readonly column: string;
  readonly levels: readonly (string | null)[];
}

/** Features of a finished frame: every number column and every coded category. */
export interface FrameShape {
  readonly numbers: readonly string[];
  readonly categories: readonly CategoryLevels[];
  /** Number columns that are the learned terms of one text, text by text. */
  readonly texts?: readonly (readonly string[])[] | undefined;
  /** Classes of the target in the order of their codes, for targets of several classes. */
  readonly classes?: readonly string[] | undefined;
}

/** What is to be predicted, once the classes are known. */
export function taskOf(plan: CheckedPlan, shape: Pick<FrameShape, "classes">): Task {
  const { kind } = plan.file.roles.target;
  return kind === "classes" ? { kind, classes: shape.classes ?? [] } : { kind };
}

/** Columns of the final rows that training, judging and deliveries need. */
export function neededColumns(plan: CheckedPlan): ReadonlySet<string> {
  const { file } = plan;
  return new Set([
    ...file.roles.key,
    ...plan.features.map((feature) => feature.name),
    ...columnsOf(plan.target),
    ...columnsOf(plan.train),
    ...columnsOf(plan.score),
    ...[file.roles.time, file.roles.group, file.roles.weight].filter((name) => name !== undefined),
    ...file.checks.flatMap((check) => columnsOf(plan.expression(check.expect))),
    ...file.delivery.flatMap((delivery) => delivery.columns),
  ]);
}

/** Source tables and the columns of them that training reads. */
export function sourcesOf(plan: CheckedPlan): readonly SourceUse[] {
  const reads = readsOf(prune(new PlanBuilder(plan).main({ learned: {} }), neededColumns(plan)));
  return [...reads.values()].map(({ schema, table: name, columns }) => {
    const known = plan.sources.find((source) => source.schema === schema && source.table === name);
    return {
      schema,
      table: name,
      columns: (known?.columns ?? []).filter((column) => columns.has(column.name)),
    };
  });
}

/** Whether anything is learned from rows before the frame can be built: by a step, as codes of categories, or as classes. */
export function needsBase(plan: CheckedPlan): boolean {
  return (
    plan.file.roles.target.kind === "classes" ||
    plan.learnsFrom < plan.main.steps.length ||
    plan.features.some((feature) => feature.kind === "category")
  );
}

/**
 * The training and holdout rows before anything was learned, with the side each is on.
 * Built once as a table, so that the split is computed once and every question reads prepared rows.
 */
export function baseRelation(plan: CheckedPlan, folds = false): Relation {
  const originals = originalsOf(plan);
  const rows = dividedRows(plan, { learned: {}, toStep: plan.learnsFrom, originals });
  const needed = columnsNeededFrom(plan, rows);
  return label(withSplit(prune(rows, needed), plan, folds), "training rows");
}

/** Columns of the final rows that can be shown and grouped by: kept with judged rows, so that figures can be taken apart by them. */
export function plainColumns(plan: CheckedPlan): readonly string[] {
  return [...plan.main.output].flatMap(([name, state]) =>
    state.bundle || ["sparse", "json", "other"].includes(state.type) ? [] : [name],
  );
}

/** Columns that anything after the base still reads. */
function columnsNeededFrom(plan: CheckedPlan, rows: Relation): ReadonlySet<string> {
  const later = new Set([...neededColumns(plan), ...plainColumns(plan)]);
  for (const { shape } of plan.main.steps.slice(plan.learnsFrom)) {
    for (const name of shape.reads) later.add(name);
  }
  return new Set(outputColumns(rows).filter((name) => later.has(name) || isHidden(name)));
}

/** A base table, and whether it has the fold of each row. */
export type BaseTable = TableReference & { readonly folds?: boolean };

/** The base table, read back as a relation. */
function fromBase(plan: CheckedPlan, base: BaseTable): Relation {
  return table({ schema: base.schema, table: base.table }, [
    ...outputColumns(baseRelation(plan, base.folds === true)),
  ]);
}

/** One fold: its rows are judged by what was learned from the others or, forward in time, from those before. */
export interface Fold {
  readonly fold: number;
  readonly forward: boolean;
}

/** Condition for the rows that are learned from: training rows, without those of a fold. */
export function learnedRows(leftOut?: Fold): Expression {
  const inTraining = binary(column(PART_COLUMN), "=", integer(TRAINING_PART));
  return leftOut
    ? allOf([inTraining, binary(column(FOLD_COLUMN), leftOut.forward ? "<" : "<>", integer(leftOut.fold))])
    : inTraining;
}

/**
 * The questions that the step at a position asks of the training rows, given what earlier steps learned, each as a
 * relation; none when it asks nothing.
 * @param leftOut a fold whose rows are not asked, for learning inside of folds
 */
export function learnRelations(
  plan: CheckedPlan,
  position: number,
  learned: LearnedValues,
  base: BaseTable,
  leftOut?: Fold,
): readonly Relation[] {
  const checked = plan.main.steps[position];
  if (!checked) return [];
  const input = new PlanBuilder(plan).main({
    learned,
    fromStep: plan.learnsFrom,
    toStep: position,
    start: fromBase(plan, base),
  });
  const training = filter(input, learnedRows(leftOut));
  return checked.step
    .questions(training, checked.input, plan.file.roles.target)
    .map((asked) => answerRelation(training, asked));
}

function answerRelation(training: Relation, asked: LearnQuestion): Relation {
  const rows = asked.rows ? asked.rows(training) : training;
  const { by = [], measures, limit: most } = asked;
  const grouped = by.length > 0 ? withColumns(rows, by) : rows;
  const answer = aggregateRows(
    grouped,
    by.map((named) => named.name),
    measures,
  );
  const limited: Relation = most ? { kind: "limit", input: answer, ...most } : answer;
  return pruneUnread(limited);
}

/** Where the rows of a frame come from. */
export interface FrameRows {
  /** The base table, when {@link needsBase}. */
  readonly base: BaseTable | undefined;
  /** Whether rows are put into folds. */
  readonly folds?: boolean;
  /** A fold that is judged: what the steps learned, they learned without it. */
  readonly leftOut?: Fold;
}

/**
 * Rows with the side they are on, those of a judged fold with a side of their own: to the steps they are rows that nothing was
 * learned from, as rows to score are.
 */
function withJudgedFold(rows: Relation, leftOut: Fold): Relation {
  const side = when(
    allOf([
      binary(column(PART_COLUMN), "=", integer(TRAINING_PART)),
      { kind: "not", operand: learnedRows(leftOut) },
    ]),
    integer(FOLD_PART),
    column(PART_COLUMN),
  );
  return withColumns(rows, [{ name: PART_COLUMN, expression: cast(side, "smallint") }]);
}

/** The fully prepared rows: every step applied, nothing yet cast for the learner. */
export function prepared(
  plan: CheckedPlan,
  learned: LearnedValues,
  { base, folds = false, leftOut }: FrameRows,
): Relation {
  const originals = originalsOf(plan);
  if (!base) return withSplit(dividedRows(plan, { learned, originals }), plan, folds);
  const rows = fromBase(plan, base);
  const start = leftOut ? withJudgedFold(rows, leftOut) : rows;
  return new PlanBuilder(plan).main({ learned, fromStep: plan.learnsFrom, start, originals });
}

/** For each value of a column as text in the rows learned from, how often it occurs: (level, rows). */
export function levelsRelation(
  plan: CheckedPlan,
  name: string,
  learned: LearnedValues,
  base: BaseTable,
  leftOut?: Fold,
): Relation {
  const training = filter(prepared(plan, learned, { base }), learnedRows(leftOut));
  const levels = project(training, [{ name: "level", expression: cast(column(name), "text") }]);
  return prune(
    aggregateRows(levels, ["level"], [{ name: "rows", expression: countRows }]),
    new Set(["level", "rows"]),
  );
}

/** Names of the terms of each sparse feature, as number columns. */
export const textColumns = (plan: CheckedPlan, learned: LearnedValues): readonly (readonly string[])[] =>
  plan.features
    .filter((feature) => feature.kind === "sparse")
    .map((feature) => termColumns(plan, feature.name, learned).map(({ name }) => name));

/** Names of the number features once bundles have been spread into their indicator columns. */
export function numberColumns(plan: CheckedPlan, learned: LearnedValues): readonly string[] {
  const columns = outputColumns(new PlanBuilder(plan).main({ learned }));
  return plan.features.flatMap((feature) => {
    if (feature.kind === "number") return [feature.name];
    if (feature.kind === "category") return [];
    if (feature.kind === "sparse")
      return termColumns(plan, feature.name, learned).map((termColumn) => termColumn.name);
    return columns.filter((name) => belongsTo(name, [feature.name], plan.main.output));
  });
}

/** Whether a number column of the frame is one of the 0/1 columns that a category was replaced by. */
export const isIndicator = (plan: CheckedPlan, name: string): boolean =>
  !plan.main.output.has(name) &&
  belongsTo(
    name,
    plan.features.map((feature) => feature.name),
    plan.main.output,
  );

/**
 * How the numbers of the frame are computed from the prepared rows, by name: numbers, yes/no and terms as double precision;
 * indicator columns as real, which holds 0 and 1 just as well and lets twice as many of them fit into a row.
 */
export function numberExpressions(plan: CheckedPlan, learned: LearnedValues): (name: string) => Expression {
  const terms = new Map(
    plan.features
      .filter((feature) => feature.kind === "sparse")
      .flatMap((feature) =>
        termColumns(plan, feature.name, learned).map(({ name, expression }) => [name, expression] as const),
      ),
  );
  return (name) => {
    const feature = plan.features.find((feature) => feature.name === name && feature.kind === "number");
    const value = terms.get(name) ?? column(name);
    return cast(
      feature?.type === "boolean" ? cast(value, "integer") : value,
      isIndicator(plan, name) ? "real" : "double precision",
    );
  };
}

/** The code of a category, 0 for one that training never saw. */
export function codeExpression(levels: CategoryLevels): Expression {
  const entries = levels.levels.flatMap((level, index): (readonly [string, number])[] =>
    level === null ? [] : [[level, index + 1]],
  );
  return cast(
    {
      kind: "lookup",
      operand: cast(column(levels.column), "text"),
      entries,
      missing: double(levels.levels.indexOf(null) + 1),
      otherwise: double(0),
      type: "double precision",
    },
    "integer",
  );
}

/** Keeps the vector of a text from being made anew for each of its terms. */
export const computedOnce = (plan: CheckedPlan, rows: Relation): Relation =>
  plan.features.some((feature) => feature.kind === "sparse") ? fence(rows) : rows;

/** The target as a number: 1 and 0 for yes and no, the code of a class, or the number itself; NULL where it is missing. */
export function targetExpression(plan: CheckedPlan, shape: Pick<FrameShape, "classes">): Expression {
  switch (plan.file.roles.target.kind) {
    case "binary":
      return cast(cast(plan.target, "integer"), "double precision");
    case "number":
      return cast(plan.target, "double precision");
    case "classes":
      return {
        kind: "lookup",
        operand: cast(plan.target, "text"),
        entries: (shape.classes ?? []).map((name, code) => [name, code] as const),
        missing: cast(NULL, "double precision"),
        otherwise: cast(NULL, "double precision"),
        type: "double precision",
      };
  }
}

/**
 * The training frame: key, side, fold, target, weight, time, a stable random number, and one column per feature.
 */
export function frameRelation(
  plan: CheckedPlan,
  shape: FrameShape,
  learned: LearnedValues,
  from: FrameRows,
): Relation {
  const rows = prepared(plan, learned, from);
  const { folds = false } = from;
  const { time, weight, key } = plan.file.roles;
  const number = numberExpressions(plan, learned);
  const items: readonly NamedExpression[] = [
    ...[...key, PART_COLUMN, DRAW_COLUMN, ...(folds ? [FOLD_COLUMN] : [])].map((name) => ({
      name,
      expression: column(name),
    })),
    { name: TARGET_COLUMN, expression: targetExpression(plan, shape) },
    ...(weight === undefined
      ? []
      : [{ name: WEIGHT_COLUMN, expression: cast(column(weight), "double precision") }]),
    ...(time === undefined
      ? []
      : [
          {
            name: MOMENT_COLUMN,
            expression: cast(
              { kind: "extract" as const, field: "epoch", operand: column(time) },
              "double precision",
            ),
          },
        ]),
    ...shape.numbers.map((name) => ({ name, expression: number(name) })),
    ...shape.categories.map((category) => ({ name: category.column, expression: codeExpression(category) })),
  ];
  const needed = new Set([...items.flatMap((named) => columnsOf(named.expression))]);
  return label(project(computedOnce(plan, prune(rows, needed)), items), "training frame");
}

/** Rows of the final strand that break a check of the file. */
export function failingCheck(
  plan: CheckedPlan,
  expect: string,
  learned: LearnedValues,
  condition: Expression,
): Relation {
  const rows = filter(
    new PlanBuilder(plan).main({ learned }),
    allOf([condition, { kind: "is", operand: plan.expression(expect), test: "true", negated: true }]),
  );
  return project(
    prune(rows, new Set(plan.file.roles.key)),
    plan.file.roles.key.map((name) => ({ name, expression: column(name) })),
  );
}

/** How many rows a key names, in the answer to {@link repeatedKeys}. */
export const KEY_ROWS = hidden("rows");

/** Rows of the frame whose key occurs more than once, or is missing: (key..., rows). */
export function repeatedKeys(plan: CheckedPlan, frame: TableReference): Relation {
  const { key } = plan.file.roles;
  // A table that judges has rows of its own, whose keys may be those of training rows.
  const by = plan.division.tables.length === 0 ? key : [...key, PART_COLUMN];
  const rows = table(frame, by);
  const counted = aggregateRows(rows, by, [{ name: KEY_ROWS, expression: countRows }]);
  const unique = allOf([
    binary(column(KEY_ROWS), "=", integer(1)),
    ...key.map((name) => isNotNull(column(name))),
  ]);
  return filter(counted, { kind: "not", operand: unique });
}
