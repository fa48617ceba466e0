import { hidden } from "../names/hidden";
import { column, double, sumOf, type Expression } from "../expression/ast";
import type { NamedExpression } from "../relation/relation";
import { treesOf, type Model } from "./model";
import { finishTrees, MOST_NODES, type ScoringProgram } from "./scoring";
import { treeExpression, type Tree } from "./trees/tree";

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

/** For each output the trees that add to it and the number of the tree's prediction that counts, in order; and where sums begin. */
function termsOf(
  model: Model,
): { readonly start: readonly number[]; readonly rounds: readonly (readonly Term[])[] } | undefined {
  if (model.algorithm === "boosted_trees")
    return {
      start: model.start,
      rounds: model.rounds.map((trees) => trees.map((tree) => ({ tree, value: 0 }))),
    };
  const trees = treesOf(model);
  const outputs = trees[0]?.nodes[0]?.value.map((_, value) => value);
  if (!outputs) return undefined;
  return {
    start: outputs.map(() => 0),
    rounds: trees.map((tree) => outputs.map((value) => ({ tree, value }))),
  };
}

interface Term {
  readonly tree: Tree;
  readonly value: number;
}

/**
 * Compiles a model of trees to several statements; undefined for other models.
 * @param number how a number column is computed from the rows
 * @param most nodes in a statement; one round of trees is never parted
 */
export function scoringPieces(
  model: Model,
  number: (name: string) => Expression,
  most = MOST_NODES,
): PiecewiseProgram | undefined {
  const terms = termsOf(model);
  if (!terms) return undefined;
  const { start, rounds } = terms;
  const batches: (readonly Term[])[][] = [];
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
    finish: finishTrees(
      model,
      sums.map((name) => column(name)),
    ),
  };
}
