import { binary, column, double, integer, NULL, truth, when, type Expression } from "../../expression/ast";
import type { AppliedSplit, RowSample } from "../../learn/trees/tree-questions";
import { POISSON_THRESHOLDS } from "../../numeric/random";
import { binName, HELD } from "./state";
import { rowUniform } from "./uniform";

/** How often a row of a state is in the sample of a tree. */
export function samplingCount(sample: RowSample, held: boolean): Expression {
  const count = drawnCount(sample);
  return held ? when(column(HELD), integer(0), count) : count;
}

function drawnCount(sample: RowSample): Expression {
  if (sample.kind === "all") return integer(1);
  const drawn = rowUniform(sample.seed);
  if (sample.kind === "share") return when(binary(drawn, "<", double(sample.share)), integer(1), integer(0));
  return { kind: "bin", operand: drawn, cuts: POISSON_THRESHOLDS };
}

/** Whether a row goes to the left side of a split. */
function goesLeft({ column: feature, lastBin, missingLeft, codes = [] }: AppliedSplit): Expression {
  const bin = column(binName(feature));
  if (lastBin !== undefined && missingLeft) return binary(bin, "<=", integer(lastBin));
  if (lastBin !== undefined)
    return { kind: "between", operand: bin, low: integer(1), high: integer(lastBin), negated: false };
  const left = [...(missingLeft ? [0] : []), ...codes];
  if (left.length === 0) return truth(false);
  return { kind: "in", operand: bin, values: left.map(integer), negated: false };
}

/** The number of the node that a row is in after the splits. */
export function nodeOf(splits: readonly AppliedSplit[]): Expression {
  const byNode = new Map(splits.map((split) => [split.node, split]));
  const visit = (node: number): Expression => {
    const split = byNode.get(node);
    return split ? when(goesLeft(split), visit(split.left), visit(split.right)) : integer(node);
  };
  return visit(0);
}

/** A tree whose nodes have values, one for each output. */
export interface ValuedNodes {
  readonly splits: readonly AppliedSplit[];
  readonly nodes: readonly number[];
  readonly values: readonly number[];
}

/** What a tree adds to the score of a row: the value of the row's node. */
export const additionOf = ({ splits, nodes, values }: ValuedNodes): Expression => ({
  kind: "case",
  subject: nodeOf(splits),
  branches: nodes.map((node, index) => ({ when: integer(node), then: double(values[index]!) })),
  otherwise: double(0),
});

/** One of several values, by a whole number from 0; NULL for any other number. */
export const valueByCode = (code: Expression, values: readonly Expression[]): Expression => ({
  kind: "case",
  subject: code,
  branches: values.map((value, index) => ({ when: integer(index), then: value })),
  otherwise: NULL,
});
