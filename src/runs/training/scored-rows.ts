import { z } from "zod";
import type { ScoredRows } from "@/core/evaluate/figures";
import type { DeliveredReason } from "@/core/explain/reasons";
import { asDouble, column, integer, type Expression } from "@/core/expression/ast";
import { compileModel, valuesOf } from "@/core/learn/compiled";
import { featureRow } from "@/core/learn/feature-row";
import type { Model } from "@/core/learn/model";
import type { FeatureRow, Task } from "@/core/learn/task";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "@/core/plan/frame-columns";
import { outputNames, REASONS_COLUMN } from "@/core/plan/score";
import { PLACE_COLUMN } from "@/core/plan/score-pieces";
import { GROUP_COLUMN, scoreRows, type ScoreColumns } from "@/core/questions/judged/judged-rows";
import { doubleValue, type Question } from "@/core/questions/question";
import { rowCountQuestion } from "@/core/questions/row-count";
import {
  filter,
  keepColumns,
  project,
  table,
  type Relation,
  type TableReference,
} from "@/core/relation/relation";
import type { TypedColumn, WarehouseSession } from "@/warehouse/port/session";
import { inStretches, type Pace } from "../pace";
import { readNumbers } from "../read-numbers";

/** Rows taken at a time where a model scores here instead of in a statement. */
const PAGE = 5000;

/** Reads predictions and targets of scored rows; nothing else leaves the warehouse. */
export async function readScores(
  session: WarehouseSession,
  place: TableReference,
  task: Task,
  columns: ScoreColumns,
): Promise<ScoredRows & { readonly groups?: Float64Array }> {
  const { group, weight } = columns;
  const outputs = outputNames(task);
  const names = [
    ...outputs,
    TARGET_COLUMN,
    ...(group === undefined ? [] : [GROUP_COLUMN]),
    ...(weight === undefined ? [] : [WEIGHT_COLUMN]),
  ];
  const scored = await readNumbers(session, scoreRows({ place, outputs }, columns), names, {
    count: "count scored rows",
    read: "read predictions and targets",
  });
  session.leave({ judged: scored.rows });
  const valuesOf = (name: string): Float64Array => scored.columns[names.indexOf(name)]!;
  return {
    outputs: outputs.map(valuesOf),
    answers: valuesOf(TARGET_COLUMN),
    ...(group === undefined ? {} : { groups: valuesOf(GROUP_COLUMN) }),
    ...(weight === undefined ? {} : { weights: valuesOf(WEIGHT_COLUMN) }),
  };
}

/** Where rows are scored here. */
export interface ScoreWork {
  /** The rows, numbered from 1 by a {@link PLACE_COLUMN}. */
  readonly inputs: TableReference;
  /** Their other columns. */
  readonly columns: readonly string[];
  /** The table that is made of them and the numbers of their predictions. */
  readonly outputs: TableReference;
  readonly pace: Pace;
  /** Reasons that are stored with a prediction. */
  readonly explain?:
    ((row: FeatureRow, prediction: ArrayLike<number>) => readonly DeliveredReason[]) | undefined;
}

const rowsToScore = z.array(z.looseObject({ [PLACE_COLUMN]: doubleValue }));

/** Some of the numbered rows, with the named columns. */
function pageQuestion(
  inputs: TableReference,
  names: readonly string[],
  from: number,
): Question<z.infer<typeof rowsToScore>> {
  const place = column(PLACE_COLUMN);
  const within: Expression = {
    kind: "between",
    operand: place,
    low: integer(from + 1),
    high: integer(from + PAGE),
    negated: false,
  };
  return {
    relation: project(filter(table(inputs, [PLACE_COLUMN, ...names]), within), [
      { name: PLACE_COLUMN, expression: asDouble(place) },
      ...names.map((name) => ({ name, expression: column(name) })),
    ]),
    purpose: "rows to score here",
    read: (rows) => rowsToScore.parse(rows),
  };
}

/**
 * Scores a table of rows with a model too large for a statement: rows come here page by page, predictions go back
 * into another table.
 */
export async function scoreHere(
  session: WarehouseSession,
  { inputs, columns, outputs, pace, explain }: ScoreWork,
  model: Model,
  features: {
    readonly task: Task;
    readonly numbers: readonly string[];
    readonly categories: readonly string[];
  },
): Promise<void> {
  const count = await session.ask(rowCountQuestion(table(inputs, []), "count the rows to score"));
  const compiled = compileModel(model);
  const names = outputNames(features.task);
  const made: readonly TypedColumn[] = [
    { name: PLACE_COLUMN, type: "bigint" },
    ...names.map((name) => ({ name, type: "double precision" as const })),
    ...(explain ? [{ name: REASONS_COLUMN, type: "json" as const }] : []),
  ];
  const place = { schema: outputs.schema, table: `${outputs.table}p` };
  await session.create(place, made, "a table for predictions");
  const wanted = [...features.numbers, ...features.categories];
  for (let from = 0; from < count; from += PAGE) {
    const rows = await session.ask(pageQuestion(inputs, wanted, from));
    session.leave({ streamed: rows.length });
    const predictions: ArrayLike<number>[] = [];
    const reasons: string[] = [];
    await inStretches(rows.length, pace, (index) => {
      const row = featureRow(rows[index]!, features.numbers, features.categories);
      const prediction = compiled.predict(valuesOf(row, compiled.columns));
      predictions.push(prediction);
      if (explain) reasons.push(JSON.stringify(explain(row, prediction)));
    });
    const values = [
      rows.map((row) => row[PLACE_COLUMN]),
      ...names.map((_, output) => predictions.map((prediction) => prediction[output])),
      ...(explain ? [reasons] : []),
    ];
    await session.insert(
      place,
      made.map((column, index) => ({ ...column, values: values[index]! })),
      "predictions made by the worker",
    );
    pace.progress("rows scored", Math.min(count, from + PAGE), count);
    await pace.breathe();
  }
  const added = made.map(({ name }) => name).filter((name) => name !== PLACE_COLUMN);
  const joined: Relation = {
    kind: "join",
    how: "inner",
    left: table(inputs, [PLACE_COLUMN, ...columns]),
    right: table(place, [PLACE_COLUMN, ...added]),
    on: [{ left: PLACE_COLUMN, right: PLACE_COLUMN }],
    take: added.map((name) => ({ from: name, name })),
  };
  await session.materialize(
    keepColumns(joined, [...columns, ...added]),
    outputs,
    "rows with their predictions",
  );
  await session.drop(place, "drop a scratch table");
}
