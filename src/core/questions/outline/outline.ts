import {
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  countWhere,
  double,
  integer,
  isNull,
  sumWhere,
  type Expression,
} from "../../expression/ast";
import type { ColumnOutline, TableOutline } from "../../pipeline/proposal/outline";
import type { CatalogColumn } from "../../plan/catalog";
import { aggregateRows, filter, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import type { ValueType } from "../../value-type";
import { numbersOf } from "../groups";
import type { Question } from "../question";

/** Types that a warehouse can tell apart as they are; others are compared as text. */
const COMPARABLE: ReadonlySet<ValueType> = new Set<ValueType>([
  "boolean",
  "smallint",
  "integer",
  "bigint",
  "numeric",
  "real",
  "double precision",
  "date",
  "timestamp",
  "timestamptz",
  "uuid",
]);
const LONGEST_TEXT = 200;

/** Rows that are looked at, and the column that numbers them from 1. */
export interface NumberedRows {
  readonly rows: Relation;
  readonly number: string;
  /** Different values are counted among so many of the first rows. */
  readonly close: number;
}

/** Gaps and different values of columns. */
export function outlineQuestion(
  { rows, number, close }: NumberedRows,
  columns: readonly CatalogColumn[],
): Question<Pick<TableOutline, "rows" | "close" | "columns">> {
  const isClose = binary(column(number), "<=", integer(close));
  const measures = columns.flatMap(({ name, type }): readonly Expression[] => {
    const value = column(name);
    const compared = COMPARABLE.has(type) ? value : call("left", cast(value, "text"), integer(LONGEST_TEXT));
    const distinct: Expression = { ...call("count", compared), distinct: true, filter: isClose };
    return [asDouble(call("count", value)), asDouble(distinct)];
  });
  const { relation, read } = numbersOf(rows, [
    asDouble(countRows),
    asDouble(countWhere(isClose)),
    ...measures,
  ]);
  return {
    relation,
    purpose: "gaps and different values",
    read: (found) => {
      const [all, near, ...values] = read(found);
      return {
        rows: all ?? 0,
        close: near ?? 0,
        columns: columns.map(({ name, type, declared }, index): ColumnOutline => ({
          name,
          type,
          declared,
          missing: (all ?? 0) - (values[2 * index] ?? 0),
          distinct: values[2 * index + 1] ?? 0,
        })),
      };
    },
  };
}

/** How many different pairs of values two columns have, for several pairs of columns. */
export function pairsQuestion(
  { rows, number, close }: NumberedRows,
  pairs: readonly (readonly [string, string])[],
): Question<readonly number[]> {
  const near = filter(rows, binary(column(number), "<=", integer(close)));
  const { relation, read } = numbersOf(
    near,
    pairs.map((pair) => asDouble(call("distinct_rows", ...pair.map((name) => column(name))))),
  );
  return {
    relation,
    purpose: "different pairs of values",
    read: (found) => read(found).map((count) => count ?? 0),
  };
}

/** How a wished key holds over all rows of a table. */
export interface KeyState {
  /** Rows in which a column of it has no value. */
  readonly missing: number;
  /** Keys that several rows have. */
  readonly repeated: number;
}

const ROWS = hidden("rows");

/** Whether columns name every row once. */
export function keyQuestion(input: Relation, names: readonly string[]): Question<KeyState> {
  const isAbsent = names
    .map((name): Expression => isNull(column(name)))
    .reduce((left, right) => binary(left, "or", right));
  const isRepeated = binary(binary(column(ROWS), ">", integer(1)), "and", { kind: "not", operand: isAbsent });
  const keys = aggregateRows(input, names, [{ name: ROWS, expression: countRows }]);
  const { relation, read } = numbersOf(keys, [
    asDouble(call("coalesce", sumWhere(column(ROWS), isAbsent), double(0))),
    asDouble(countWhere(isRepeated)),
  ]);
  return {
    relation,
    purpose: "whether columns identify rows",
    read: (found) => {
      const [missing, repeated] = read(found);
      return { missing: missing ?? 0, repeated: repeated ?? 0 };
    },
  };
}
