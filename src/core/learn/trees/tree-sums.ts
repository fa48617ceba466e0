import { double, sumOf, type Expression } from "../../expression/ast";
import type { ReadColumns, TreeSums } from "../model-kind";
import type { NumberExpression } from "../scoring-program";
import { treeExpression, type SplitNode, type Tree } from "./tree";

/** The outputs of a tree whose leaves have a value for each. */
export const outputsOf = (tree: Tree): readonly number[] => tree.nodes[0]!.value.map((_, value) => value);

/** The trees of a model, in the order in which they are added. */
export const treesOfSums = ({ rounds }: TreeSums): readonly Tree[] => [
  ...new Set(rounds.flat().map(({ tree }) => tree)),
];

/** The sum of each output over all trees. */
export const sumExpressions = (
  { start, rounds }: TreeSums,
  number: NumberExpression,
): readonly Expression[] =>
  start.map((value, output) =>
    sumOf([
      double(value),
      ...rounds.map((round) => treeExpression(round[output]!.tree, round[output]!.value, number)),
    ]),
  );

/** Columns that trees split on, in the order of their nodes. */
export function columnsOfTrees(trees: readonly Tree[]): ReadColumns {
  const splits = trees.flatMap(({ nodes }) =>
    nodes.filter((node): node is SplitNode => node.kind !== "leaf"),
  );
  const ofKind = (kind: SplitNode["kind"]): readonly string[] =>
    splits.filter((node) => node.kind === kind).map((node) => node.column);
  return { numbers: ofKind("number"), categories: ofKind("category") };
}
