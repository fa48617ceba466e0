import { SCALE_OF_LINK } from "../../explain/explained-row";
import { treeSumReasons } from "../../explain/tree-sum-reasons";
import { linked } from "../links";
import type { ModelKind, Places, Predict, TreeSums } from "../model-kind";
import { linkedProgram } from "../scoring-program";
import { flatten, leafValue } from "../trees/flat-tree";
import type { BoostedModel } from "../trees/tree-models";
import { columnsOfTrees, sumExpressions } from "../trees/tree-sums";

/** The sums of the trees, one per output, before the link. */
function compileScores(model: BoostedModel, places: Places): Predict {
  const trees = model.rounds.flat().map((tree) => flatten(tree, places));
  const outputs = model.start.length;
  return (values) => {
    const scores = [...model.start];
    trees.forEach((tree, index) => {
      scores[index % outputs]! += leafValue(tree, values)[0]!;
    });
    return scores;
  };
}

const treeSums = ({ start, rounds, link }: BoostedModel): TreeSums => ({
  start,
  rounds: rounds.map((trees) => trees.map((tree) => ({ tree, value: 0 }))),
  finish: (sums) => linkedProgram(link, [], sums),
});

/** The sums of the trees, turned into predictions by the link. */
export const boostedTrees: ModelKind<BoostedModel> = {
  reads: ({ rounds }) => columnsOfTrees(rounds.flat()),
  compile: (model, places) => {
    const scores = compileScores(model, places);
    return (values) => linked(model.link, scores(values));
  },
  program: (model, number) => {
    const sums = treeSums(model);
    return sums.finish(sumExpressions(sums, number));
  },
  treeSums,
  explain: ({ model, row, output }) => ({
    ...treeSumReasons(
      model.rounds.map((trees) => ({ tree: trees[output]!, output: 0 })),
      row,
      { start: model.start[output]!, factor: 1 },
    ),
    scale: SCALE_OF_LINK[model.link],
    exact: true,
  }),
  compilePredictor: compileScores,
};
