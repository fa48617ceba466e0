import { cast, column } from "../expression/ast";
import type { Relation } from "../relation/relation";
import { hidden } from "../sql/hidden";

/** The place of a column among those that a row is taken apart into, from 0, and its value. */
export const [PLACE, VALUE] = ["place", "value"].map(hidden) as [string, string];

/** Rows taken apart: one for each row and named number column, with the {@link PLACE} of the column and its {@link VALUE}. @param keep columns that every one has too */
export const longRows = (
  input: Relation,
  names: readonly string[],
  keep: readonly string[] = [],
): Relation => ({
  kind: "unpivot",
  named: "by place",
  input,
  keep,
  columns: names.map((name) => ({ name, expression: cast(column(name), "double precision") })),
  nameColumn: PLACE,
  valueColumn: VALUE,
});
