import { allOf, binary, column, double, integer, type Expression } from "../expression/ast";
import { TRAINING_PART } from "../plan/split";
import { filter, table, type Relation, type TableReference } from "../relation/relation";
import { DRAW_COLUMN, PART_COLUMN } from "../steps/step";

const isDrawn = (share: number): readonly Expression[] =>
  share < 1 ? [binary(column(DRAW_COLUMN), "<", double(share))] : [];

/** Rows of one part of a frame with the named columns. @param share of the rows that are taken, drawn at random */
export const rowsOfPart = (
  frame: TableReference,
  names: readonly string[],
  part: number,
  share = 1,
): Relation =>
  filter(
    table(frame, [...new Set([...names, PART_COLUMN, DRAW_COLUMN])]),
    allOf([binary(column(PART_COLUMN), "=", integer(part)), ...isDrawn(share)]),
  );

/** The training rows of a frame with the named columns. @param share of the rows that are taken, drawn at random */
export const trainingRows = (frame: TableReference, names: readonly string[], share = 1): Relation =>
  rowsOfPart(frame, names, TRAINING_PART, share);
