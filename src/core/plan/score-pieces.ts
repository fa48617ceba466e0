import { hidden } from "../names/hidden";
import { call, column } from "../expression/ast";
import type { Model } from "../learn/model";
import { scoringPieces } from "../learn/pieces";
import {
  keepColumns,
  outputColumns,
  project,
  table,
  withColumns,
  type NamedExpression,
  type Relation,
  type TableReference,
} from "../relation/relation";
import { predicted } from "./score";

/** Hidden column that tells the rows of a scratch table apart. */
export const PLACE_COLUMN = hidden("place");

/** Rows numbered from 1 by a {@link PLACE_COLUMN}, in any order. */
export const numberedRows = (rows: Relation): Relation =>
  withColumns(rows, [
    {
      name: PLACE_COLUMN,
      expression: { kind: "window", call: call("row_number"), by: [], order: [] },
    },
  ]);

/** Statements that score the rows of a table with a model too large for one. */
export interface PieceRelations {
  /** Place and sums of every row before any tree. */
  readonly start: Relation;
  /** For each piece, place and sums of every row after it, from the table of those before it. */
  readonly pieces: readonly ((before: TableReference) => Relation)[];
  /** The rows with the numbers of their prediction, from the last table of sums. */
  readonly finish: (before: TableReference) => Relation;
}

/**
 * How rows are scored piece by piece; undefined for a model that is no sum of trees.
 * @param rows a table with a {@link PLACE_COLUMN} and with the features as the model reads them
 * @param columns its other columns
 * @param most nodes of trees in a statement; what a statement can hold when left out
 */
export function pieceRelations(
  rows: TableReference,
  columns: readonly string[],
  model: Model,
  most?: number,
): PieceRelations | undefined {
  const program = scoringPieces(model, column, most);
  if (!program) return undefined;
  const sums = program.start.map((sum) => sum.name);
  const all = table(rows, [PLACE_COLUMN, ...columns]);
  const place: NamedExpression = { name: PLACE_COLUMN, expression: column(PLACE_COLUMN) };
  const withSums = (before: TableReference): Relation => ({
    kind: "join",
    how: "inner",
    left: all,
    right: table(before, [PLACE_COLUMN, ...sums]),
    on: [{ left: PLACE_COLUMN, right: PLACE_COLUMN }],
    take: sums.map((name) => ({ from: name, name })),
  });
  return {
    start: project(all, [place, ...program.start]),
    pieces: program.pieces.map((piece) => (before) => project(withSums(before), [place, ...piece])),
    finish: (before) => {
      const made = predicted(withSums(before), [...columns], program.finish);
      return keepColumns(made, outputColumns(made));
    },
  };
}
