import { treeSumReasons } from "../../explain/tree-sum-reasons";
import type { ModelKind } from "../model-kind";
import { flatten, leafValue } from "../trees/flat-tree";
import { treeExpression } from "../trees/tree";
import type { DecisionTreeModel } from "../trees/tree-models";
import { columnsOfTrees, outputsOf } from "../trees/tree-sums";

/** The value of a row's leaf. */
export const decisionTree: ModelKind<DecisionTreeModel> = {
  reads: ({ tree }) => columnsOfTrees([tree]),
  compile: (model, places) => {
    const tree = flatten(model.tree, places);
    return (values) => leafValue(tree, values);
  },
  program: ({ tree }, number) => ({
    stages: [],
    outputs: outputsOf(tree).map((output) => treeExpression(tree, output, number)),
  }),
  treeSums: ({ tree }) => {
    const outputs = outputsOf(tree);
    return {
      start: outputs.map(() => 0),
      rounds: [outputs.map((value) => ({ tree, value }))],
      finish: (sums) => ({ stages: [], outputs: sums }),
    };
  },
  explain: ({ model, row, output }) => ({
    ...treeSumReasons([{ tree: model.tree, output }], row, { start: 0, factor: 1 }),
    scale: "the prediction",
    exact: true,
  }),
};
