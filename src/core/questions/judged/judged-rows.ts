import { allOf, asDouble, call, column, double, isNotNull, type Expression } from "../../expression/ast";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "../../plan/frame-columns";
import { filter, project, table, type Relation, type TableReference } from "../../relation/relation";
import { hidden } from "../../names/hidden";

/** A table of rows that a version was judged on, with target and predictions. */
export interface JudgedTable {
  readonly place: TableReference;
  /** Columns of the numbers of the prediction. */
  readonly outputs: readonly string[];
}

/** What is read with predictions and targets. */
export interface ScoreColumns {
  /** A column by which rows belong together: its values are read as numbers that tell them apart. */
  readonly group?: string | undefined;
  /** The column that says how much a row counts. */
  readonly weight?: string | undefined;
}

export const GROUP_COLUMN = hidden("group");

/** Judged rows that have a target and a prediction, with the named columns. */
export const judgedRows = ({ place, outputs }: JudgedTable, names: readonly string[] = []): Relation =>
  filter(
    table(place, [...new Set([TARGET_COLUMN, ...outputs, ...names])]),
    allOf([isNotNull(column(TARGET_COLUMN)), isNotNull(column(outputs[0]!))]),
  );

/** A column's values as numbers that tell them apart. */
export const distinctNumber = (name: string): Expression => ({
  kind: "window",
  call: call("dense_rank"),
  by: [],
  order: [{ expression: column(name) }],
});

/** How much a row counts; nothing where that is missing. */
export const weightOrNone = (name: string): Expression => call("coalesce", asDouble(column(name)), double(0));

/** Predictions and targets of judged rows, with groups and weights if there are any. */
export function scoreRows(judged: JudgedTable, { group, weight }: ScoreColumns): Relation {
  const further = [group, weight].filter((name) => name !== undefined);
  return project(judgedRows(judged, further), [
    ...[...judged.outputs, TARGET_COLUMN].map((name) => ({ name, expression: column(name) })),
    ...(group === undefined ? [] : [{ name: GROUP_COLUMN, expression: distinctNumber(group) }]),
    ...(weight === undefined ? [] : [{ name: WEIGHT_COLUMN, expression: weightOrNone(weight) }]),
  ]);
}
