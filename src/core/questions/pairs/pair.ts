import { z } from "zod";
import { asDouble, call, column, countRows } from "../../expression/ast";
import { aggregateRows, filter, project, type Relation } from "../../relation/relation";
import { numbersOf } from "../groups";
import type { ProfiledColumn } from "../profile/column";
import { doubleValue, type Question } from "../question";
import { both, isUsable, numericValue, type Parts } from "./parts";

/** How many rows fall into a part of one column and a part of another. */
export interface PairCount {
  readonly x: string | null;
  readonly y: string | null;
  readonly rows: number;
}

/** A column with the parts that it is cut into. */
export interface CutColumn {
  readonly column: ProfiledColumn;
  readonly parts: Parts;
}

const pairRows = z.array(z.object({ x: z.string().nullable(), y: z.string().nullable(), rows: doubleValue }));

/** Rows by the parts of two columns. */
export function pairQuestion(rows: Relation, x: CutColumn, y: CutColumn): Question<readonly PairCount[]> {
  const usable = filter(rows, both(isUsable(x.column), isUsable(y.column)));
  const cut = project(usable, [
    { name: "x", expression: x.parts.part },
    { name: "y", expression: y.parts.part },
  ]);
  return {
    relation: aggregateRows(cut, ["x", "y"], [{ name: "rows", expression: asDouble(countRows) }]),
    purpose: `${x.column.name} against ${y.column.name}`,
    read: (found) => pairRows.parse(found),
  };
}

/** Pearson's correlation of two columns that are numbers; null where one does not vary. */
export function correlationQuestion(
  rows: Relation,
  x: ProfiledColumn,
  y: ProfiledColumn,
): Question<number | null> {
  const usable = filter(rows, both(isUsable(x), isUsable(y)));
  const { relation, read } = numbersOf(usable, [call("corr", numericValue(x), numericValue(y))]);
  return {
    relation,
    purpose: `correlation of ${x.name} and ${y.name}`,
    read: (found) => read(found)[0] ?? null,
  };
}

const targetRows = z.array(
  z.looseObject({ value: z.string(), rows: doubleValue, values: doubleValue, total: doubleValue }),
);

/**
 * The values of a target that is no number: the most frequent with their rows, how many there are, and all rows
 * that have one.
 */
export interface TargetValues {
  readonly balance: readonly { readonly value: string; readonly rows: number }[];
  readonly values: number;
  readonly rows: number;
}

/** Values of a column of texts, the most frequent first. @param most how many are returned at the most */
export function targetValuesQuestion(texts: Relation, name: string, most: number): Question<TargetValues> {
  const rows = column("rows");
  const values = project(texts, [{ name: "value", expression: column(name) }]);
  const counted = aggregateRows(values, ["value"], [{ name: "rows", expression: asDouble(countRows) }]);
  const whole = project(counted, [
    { name: "value", expression: column("value") },
    { name: "rows", expression: rows },
    { name: "values", expression: asDouble({ kind: "window", call: countRows, by: [], order: [] }) },
    { name: "total", expression: { kind: "window", call: call("sum", rows), by: [], order: [] } },
  ]);
  return {
    relation: {
      kind: "limit",
      input: whole,
      order: [{ expression: rows, descending: true }, { expression: column("value") }],
      rows: most,
    },
    purpose: "values of the target",
    read: (found) => {
      const parsed = targetRows.parse(found);
      return {
        balance: parsed.map(({ value, rows }) => ({ value, rows })),
        values: parsed[0]?.values ?? 0,
        rows: parsed[0]?.total ?? 0,
      };
    },
  };
}
