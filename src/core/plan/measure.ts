import { call, column, countRows, type Expression } from "../expression/ast";
import { aggregateRows, outputColumns, type Relation } from "../relation/relation";

/**
 * One row of counts over a relation: its rows, and per column how many values are there.
 * The result has columns "rows" and "c0", "c1", ... in the order of `columns`.
 */
export function completenessRelation(relation: Relation, columns: readonly string[]): Relation {
  const count = (argument: Expression): Expression => call("count", argument);
  return aggregateRows(
    relation,
    [],
    [
      { name: "rows", expression: countRows },
      ...columns.map((name, index) => ({ name: `c${index}`, expression: count(column(name)) })),
    ],
  );
}

/** Columns of a relation that are no indicator of an encoded category: those share the completeness of their source. */
export const measurableColumns = (relation: Relation): readonly string[] =>
  outputColumns(relation).filter((name) => !name.includes("="));
