import { treeSumReasons } from "../../explain/tree-sum-reasons";
import { binary, double } from "../../expression/ast";
import type { ModelKind, TreeSums } from "../model-kind";
import { flatten, leafValue } from "../trees/flat-tree";
import type { ForestModel } from "../trees/tree-models";
import { columnsOfTrees, outputsOf, sumExpressions } from "../trees/tree-sums";

function treeSums({ trees }: ForestModel): TreeSums {
  const outputs = outputsOf(trees[0]!);
  return {
    start: outputs.map(() => 0),
    rounds: trees.map((tree) => outputs.map((value) => ({ tree, value }))),
    finish: (sums) => ({
      stages: [],
      outputs: sums.map((sum) => binary(sum, "/", double(trees.length))),
    }),
  };
}

/** The mean of the trees. */
export const randomForest: ModelKind<ForestModel> = {
  reads: ({ trees }) => columnsOfTrees(trees),
  compile: (model, places) => {
    const trees = model.trees.map((tree) => flatten(tree, places));
    const outputs = outputsOf(model.trees[0]!);
    return (values) => {
      const sums = outputs.map(() => 0);
      for (const tree of trees) {
        const value = leafValue(tree, values);
        for (const output of outputs) sums[output]! += value[output]!;
      }
      return sums.map((sum) => sum / trees.length);
    };
  },
  program: (model, number) => {
    const sums = treeSums(model);
    return sums.finish(sumExpressions(sums, number));
  },
  treeSums,
  explain: ({ model: { trees }, row, output }) => ({
    ...treeSumReasons(
      trees.map((tree) => ({ tree, output })),
      row,
      { start: 0, factor: 1 / trees.length },
    ),
    scale: "the prediction",
    exact: true,
  }),
};
