import { z } from "zod";
import { binary, call, column, double, isNotNull, type Expression } from "../../expression/ast";
import { CUT_ROWS } from "../../learn/trees/cuts";
import { aggregateRows, filter, project, type Relation } from "../../relation/relation";
import { DRAW_COLUMN } from "../../steps/step";
import { target, type FrameRows } from "../frame/frame-rows";
import { doubleValue, onlyRow, type Question } from "../question";

/** The rows that decide cuts: all of them, or as many as {@link CUT_ROWS}, drawn at random. */
const cutRows = ({ rows }: FrameRows, total: number): Relation =>
  total <= CUT_ROWS ? rows : filter(rows, binary(column(DRAW_COLUMN), "<", double(CUT_ROWS / total)));

/** NaN lies above every number, as infinity does in the core. */
const comparable = (value: number): number => (Number.isNaN(value) ? Infinity : value);

/**
 * Distinct values of a column, ascending: one more than `most` at the most. NaN counts as Infinity; both may be there.
 * @param total how many rows there are
 */
export function distinctQuestion(
  frame: FrameRows,
  name: string,
  total: number,
  most: number,
): Question<readonly number[]> {
  const present = project(filter(cutRows(frame, total), isNotNull(column(name))), [
    { name: "value", expression: column(name) },
  ]);
  return {
    relation: {
      kind: "limit",
      input: aggregateRows(present, ["value"], []),
      order: [{ expression: column("value") }],
      rows: most + 1,
    },
    purpose: `distinct values of ${name}`,
    read: (rows) =>
      z
        .array(z.object({ value: doubleValue }))
        .parse(rows)
        .map(({ value }) => comparable(value)),
  };
}

const quantilesRow = z.object({ quantiles: z.array(doubleValue).nullable() });

function quantilesOf(
  rows: Relation,
  value: Expression,
  shares: readonly number[],
  purpose: string,
): Question<readonly number[]> {
  const quantiles = call("quantiles", ...shares.map(double), value);
  return {
    relation: aggregateRows(rows, [], [{ name: "quantiles", expression: quantiles }]),
    purpose,
    read: (found) => (onlyRow(found, quantilesRow).quantiles ?? []).map(comparable),
  };
}

/**
 * Quantiles of a column over the rows that decide cuts.
 * @param total how many rows there are
 */
export const quantilesQuestion = (
  frame: FrameRows,
  name: string,
  total: number,
  shares: readonly number[],
): Question<readonly number[]> =>
  quantilesOf(cutRows(frame, total), column(name), shares, `quantiles of ${name}`);

/** Quantiles of the target. */
export const targetQuantilesQuestion = (
  { rows }: FrameRows,
  shares: readonly number[],
): Question<readonly number[]> => quantilesOf(rows, target, shares, "quantiles of the target");
