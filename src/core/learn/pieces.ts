import { hidden } from "../names/hidden";
import { column, double, sumOf } from "../expression/ast";
import type { NamedExpression } from "../relation/relation";
import type { Model } from "./model";
import type { TreeTerm } from "./model-kind";
import { kindOf } from "./model-kinds";
import { MOST_NODES } from "./scoring";
import type { NumberExpression, ScoringProgram } from "./scoring-program";
import { treeExpression } from "./trees/tree";

/**
 * A model of very many trees as several statements: each adds some of the trees to the sums so far, in the order of the trees, so
 * that the last bit is the same as in one statement.
 */
export interface PiecewiseProgram {
  /** The sums before any tree. */
  readonly start: readonly NamedExpression[];
  /** New sums from those of the statement before, which are columns of the same names, and the features. */
  readonly pieces: readonly (readonly NamedExpression[])[];
  /** The prediction from the last sums. */
  readonly finish: ScoringProgram;
}

const sumColumn = (output: number): string => hidden(`sum_${output}`);

/**
 * Compiles a model of trees to several statements; undefined for other models.
 * @param number how a number column is computed from the rows
 * @param most nodes in a statement; one round of trees is never parted
 */
export function scoringPieces(
  model: Model,
  number: NumberExpression,
  most = MOST_NODES,
): PiecewiseProgram | undefined {
  const terms = kindOf(model).treeSums?.(model);
  if (!terms) return undefined;
  const { start, rounds, finish } = terms;
  const batches: (readonly TreeTerm[])[][] = [];
  let nodes = Number.POSITIVE_INFINITY;
  for (const round of rounds) {
    const own = [...new Set(round.map((term) => term.tree))].reduce(
      (sum, tree) => sum + tree.nodes.length,
      0,
    );
    if (nodes + own > most) {
      batches.push([]);
      nodes = 0;
    }
    batches.at(-1)!.push(round);
    nodes += own;
  }
  const sums = start.map((_, output) => sumColumn(output));
  return {
    start: sums.map((name, output) => ({ name, expression: double(start[output]!) })),
    pieces: batches.map((batch) =>
      sums.map((name, output) => ({
        name,
        expression: sumOf([
          column(name),
          ...batch.map((round) => treeExpression(round[output]!.tree, round[output]!.value, number)),
        ]),
      })),
    ),
    finish: finish(sums.map((name) => column(name))),
  };
}
