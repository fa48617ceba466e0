import { baseRate } from "./base-rate/prediction";
import { boostedTrees } from "./boosted-trees/prediction";
import { decisionTree } from "./decision-tree/prediction";
import { linearRegression } from "./linear-regression/prediction";
import { logisticRegression, multinomialRegression } from "./logistic-regression/prediction";
import type { Model, ModelOf } from "./model";
import type { ModelKind } from "./model-kind";
import { naiveBayes } from "./naive-bayes/prediction";
import { nearestNeighbours } from "./nearest-neighbours/prediction";
import { neuralNetwork } from "./neural-network/prediction";
import { randomForest } from "./random-forest/prediction";
import { supportVector } from "./support-vector/prediction";
import { treesOfSums } from "./trees/tree-sums";
import type { Tree } from "./trees/tree";

/** How models of each kind predict. */
const MODEL_KINDS: { readonly [Name in Model["algorithm"]]: ModelKind<ModelOf<Name>> } = {
  base_rate: baseRate,
  linear_regression: linearRegression,
  logistic_regression: logisticRegression,
  multinomial_regression: multinomialRegression,
  support_vector: supportVector,
  naive_bayes: naiveBayes,
  decision_tree: decisionTree,
  random_forest: randomForest,
  boosted_trees: boostedTrees,
  nearest_neighbours: nearestNeighbours,
  neural_network: neuralNetwork,
};

/** How a model predicts. */
export function kindOf(model: Model): ModelKind<Model> {
  // The table has for every name the kind of that name's models, which the compiler cannot follow through a union.
  return MODEL_KINDS[model.algorithm] as unknown as ModelKind<Model>;
}

/** Names of the columns that a model reads. */
export function columnsRead(model: Model): {
  readonly numbers: ReadonlySet<string>;
  readonly categories: ReadonlySet<string>;
} {
  const { numbers, categories } = kindOf(model).reads(model);
  return { numbers: new Set(numbers), categories: new Set(categories) };
}

/** The trees of a model, if it has any. */
export function treesOf(model: Model): readonly Tree[] {
  const sums = kindOf(model).treeSums?.(model);
  return sums ? treesOfSums(sums) : [];
}
