import { z } from "zod";
import {
  allOf,
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  countWhere,
  double,
  isNotNull,
  text,
  when,
  type BinaryOperator,
  type Expression,
} from "../expression/ast";
import type { TruthSums } from "../evaluate/truth";
import type { Task } from "../learn/task";
import {
  aggregateRows,
  common,
  filter,
  keepColumns,
  project,
  table,
  withColumns,
  type NamedExpression,
  type Relation,
  type TableReference,
} from "../relation/relation";
import { hidden } from "../names/hidden";
import { doubleValue, onlyRow, type Question } from "./question";

/** The column with the actual value, beside those of the key. */
export const TRUE_ANSWER = hidden("answer");
const [VERSION, DAY, PREDICTED] = ["version", "day", "predicted"].map(hidden) as [string, string, string];

export interface LandedPredictions {
  /**
   * Rows whose actual value is known: the key's columns, and the value as {@link TRUE_ANSWER}
   * (0 and 1 for yes and no, text for classes).
   */
  readonly truth: Relation;
  readonly tables: readonly TableReference[];
  readonly key: readonly string[];
  readonly kind: Task["kind"];
  /** Predictions of logical times before this moment are left out. */
  readonly since: string;
  /** And those after it. */
  readonly until: string;
}

/** A probability that is never quite 0 or 1, so that its logarithm exists. */
const SMALLEST = 1e-15;

const [PREDICTION, ANSWER] = [column("prediction"), column(TRUE_ANSWER)];
const squareOf = (difference: Expression): Expression => binary(difference, "^", double(2));

const outputsOf = (kind: Task["kind"]): readonly string[] =>
  kind === "binary" ? ["prediction", "probability"] : ["prediction"];

/** Rank of a probability among those of its group, from 1; equal ones share their mean rank. */
function meanRank(by: readonly string[]): Expression {
  const groups = by.map((name) => column(name));
  const probability = column("probability");
  const rank: Expression = {
    kind: "window",
    call: call("rank"),
    by: groups,
    order: [{ expression: probability }],
  };
  const equal: Expression = { kind: "window", call: countRows, by: [...groups, probability], order: [] };
  return binary(asDouble(rank), "+", binary(binary(asDouble(equal), "-", double(1)), "/", double(2)));
}

const [RANK, LIMITED] = [hidden("rank"), hidden("limited")];

/** Sums by target kind over rows with a prediction and its actual value; see {@link TruthSums}. */
function sumsOf(kind: Task["kind"]): readonly NamedExpression[] {
  const sum = (name: keyof TruthSums, of: Expression): NamedExpression => ({
    name,
    expression: asDouble(call("sum", of)),
  });
  const hits = (condition: Expression): NamedExpression => ({
    name: "hits",
    expression: asDouble(countWhere(condition)),
  });
  const isPositive = binary(ANSWER, "=", double(1));
  const limited = column(LIMITED);
  switch (kind) {
    case "number": {
      const error = binary(PREDICTION, "-", ANSWER);
      return [
        sum("squares", squareOf(error)),
        sum("errors", call("abs", error)),
        { name: "variance", expression: asDouble(call("var_pop", ANSWER)) },
        { name: "mean", expression: asDouble(call("avg", ANSWER)) },
      ];
    }
    case "classes":
      return [hits(binary(PREDICTION, "=", ANSWER))];
    case "binary":
      return [
        sum("positives", ANSWER),
        { name: "places", expression: { ...call("sum", column(RANK)), filter: isPositive } },
        sum("surprise", {
          kind: "negate",
          operand: call("ln", when(isPositive, limited, binary(double(1), "-", limited))),
        }),
        sum("squares", squareOf(binary(limited, "-", ANSWER))),
        hits(binary(PREDICTION, "=", isPositive)),
      ];
  }
}

/** Sums over answered rows by groups. */
function sumAnswered(kind: Task["kind"], rows: Relation, by: readonly string[]): Relation {
  const answered =
    kind === "classes" ? rows : withColumns(rows, [{ name: TRUE_ANSWER, expression: asDouble(ANSWER) }]);
  const ranked =
    kind === "binary"
      ? withColumns(answered, [
          { name: RANK, expression: meanRank(by) },
          {
            name: LIMITED,
            expression: call(
              "least",
              call("greatest", column("probability"), double(SMALLEST)),
              double(1 - SMALLEST),
            ),
          },
        ])
      : answered;
  return aggregateRows(ranked, by, [{ name: "answered", expression: asDouble(countRows) }, ...sumsOf(kind)]);
}

const sumsRow = z.object({
  answered: doubleValue.nullable(),
  squares: doubleValue.nullish(),
  errors: doubleValue.nullish(),
  variance: doubleValue.nullish(),
  mean: doubleValue.nullish(),
  hits: doubleValue.nullish(),
  positives: doubleValue.nullish(),
  places: doubleValue.nullish(),
  surprise: doubleValue.nullish(),
});
const daysRows = z.array(sumsRow.extend({ version: z.number(), day: z.string(), predicted: doubleValue }));

/** Predictions of the delivery's tables, with the version that made them and the day (UTC) of their run. */
function predictionsOf({ tables, key, kind, since, until }: LandedPredictions): Relation {
  const names = [...key, ...outputsOf(kind)];
  const isAt = (operator: BinaryOperator, moment: string): Expression =>
    binary(column("run_time"), operator, cast(text(moment), "timestamptz"));
  const landed = tables.map((from) =>
    project(
      filter(
        table(from, [...names, "model_version", "run_time"]),
        allOf([isAt(">=", since), isAt("<=", until)]),
      ),
      [
        ...names.map((name) => ({ name, expression: column(name) })),
        { name: VERSION, expression: column("model_version") },
        { name: DAY, expression: cast(call("timezone", text("UTC"), column("run_time")), "date") },
      ],
    ),
  );
  return common({ kind: "union", inputs: landed }, "predictions");
}

/** Sums of the predictions that a version made on a day. */
export type DaySums = TruthSums & {
  readonly version: number;
  readonly day: string;
  readonly predicted: number;
};

/**
 * Past predictions against actual values: sums for each version of the model and each day (UTC) of the runs'
 * logical times, by day.
 * The sum of ranks gives the AUC (Mann and Whitney, 1947), ties sharing their mean rank.
 */
export function truthQuestion(asked: LandedPredictions): Question<readonly DaySums[]> {
  const { key, kind } = asked;
  const [versionOf, dayOf] = [hidden("version_of"), hidden("day_of")];
  const predictions = predictionsOf(asked);
  const counted = aggregateRows(
    predictions,
    [VERSION, DAY],
    [{ name: PREDICTED, expression: asDouble(countRows) }],
  );
  // Only what has an actual value is joined, ranked and summed: in a large table that is little at first.
  const answered: Relation = {
    kind: "join",
    how: "inner",
    left: filter(predictions, isNotNull(PREDICTION)),
    right: filter(asked.truth, isNotNull(ANSWER)),
    on: key.map((name) => ({ left: name, right: name })),
    take: [{ from: TRUE_ANSWER, name: TRUE_ANSWER }],
  };
  const sums = sumAnswered(kind, keepColumns(answered, [VERSION, DAY, ...outputsOf(kind), TRUE_ANSWER]), [
    VERSION,
    DAY,
  ]);
  const names = ["answered", ...sumsOf(kind).map(({ name }) => name)];
  const joined: Relation = {
    kind: "join",
    how: "left",
    left: counted,
    right: project(sums, [
      { name: versionOf, expression: column(VERSION) },
      { name: dayOf, expression: column(DAY) },
      ...names.map((name) => ({ name, expression: column(name) })),
    ]),
    on: [
      { left: VERSION, right: versionOf },
      { left: DAY, right: dayOf },
    ],
    take: names.map((name) => ({ from: name, name })),
  };
  return {
    relation: project(joined, [
      { name: "version", expression: cast(column(VERSION), "integer") },
      { name: "day", expression: cast(column(DAY), "text") },
      { name: "predicted", expression: column(PREDICTED) },
      ...names.map((name) => ({ name, expression: column(name) })),
    ]),
    purpose: "compare earlier predictions with actuals",
    read: (rows) =>
      daysRows
        .parse(rows)
        .toSorted((left, right) => left.day.localeCompare(right.day) || left.version - right.version),
  };
}

/**
 * The same sums over one table whose rows have their actual values.
 * @param answer its column with the actual value: a boolean for yes and no, text for classes
 */
export function answeredQuestion(
  from: TableReference,
  answer: string,
  kind: Task["kind"],
): Question<TruthSums> {
  const known = filter(
    table(from, [...outputsOf(kind), answer]),
    allOf([isNotNull(column(answer)), isNotNull(PREDICTION)]),
  );
  const value = kind === "binary" ? cast(column(answer), "integer") : column(answer);
  const rows = project(known, [
    ...outputsOf(kind).map((name) => ({ name, expression: column(name) })),
    { name: TRUE_ANSWER, expression: value },
  ]);
  return {
    relation: sumAnswered(kind, rows, []),
    purpose: "compare predictions with targets",
    read: (found) => onlyRow(found, sumsRow),
  };
}
