import { asDouble, column } from "../expression/ast";
import type { Relation } from "../relation/relation";
import { hidden } from "../names/hidden";

/** The place of a column among those that are unpivoted, from 0, and its value. */
export const [PLACE, VALUE] = ["place", "value"].map(hidden) as [string, string];

/**
 * One row for each row and named number column, with the {@link PLACE} of the column and its {@link VALUE}.
 * @param keep further columns to keep
 */
export const longRows = (
  input: Relation,
  names: readonly string[],
  keep: readonly string[] = [],
): Relation => ({
  kind: "unpivot",
  named: "by place",
  input,
  keep,
  columns: names.map((name) => ({ name, expression: asDouble(column(name)) })),
  nameColumn: PLACE,
  valueColumn: VALUE,
});
