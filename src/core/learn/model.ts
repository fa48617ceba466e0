import { z } from "zod";
import { baseRateModelSchema } from "./base-rate/base-rate";
import { bayesModelSchema, logShares } from "./bayes/naive-bayes";
import { linearSum } from "./linear/linear-part";
import { logisticModelSchema } from "./linear/logistic";
import { multinomialModelSchema } from "./linear/multinomial";
import { linearModelSchema } from "./linear/regression";
import { supportVectorModelSchema } from "./linear/support-vector";
import { neighbourModelSchema, vote } from "./neighbours/neighbours";
import { networkModelSchema, networkSums } from "./network/network";
import type { FeatureRow } from "./task";
import { boostedModelSchema, decisionTreeModelSchema, forestModelSchema } from "./trees/tree-models";
import { leafOf } from "./trees/tree";

/** Any fitted model, as data. A stored model is checked against this when it is read. */
export const modelSchema = z.discriminatedUnion("algorithm", [
  baseRateModelSchema,
  linearModelSchema,
  logisticModelSchema,
  multinomialModelSchema,
  supportVectorModelSchema,
  bayesModelSchema,
  decisionTreeModelSchema,
  forestModelSchema,
  boostedModelSchema,
  neighbourModelSchema,
  networkModelSchema,
]);
export type Model = z.infer<typeof modelSchema>;

/** Beyond this the logistic function is 0 or 1 to double precision, and exp() would overflow in PostgreSQL. */
export const MOST_LOG_ODDS = 700;

/** Probability of yes from log odds. */
export const probabilityOf = (odds: number): number =>
  1 / (1 + Math.exp(-Math.max(-MOST_LOG_ODDS, Math.min(MOST_LOG_ODDS, odds))));

/** Probabilities of classes from their predictors. */
export function shareOut(predictors: readonly number[]): readonly number[] {
  const most = Math.max(...predictors);
  const parts = predictors.map((predictor) => Math.exp(Math.max(-MOST_LOG_ODDS, predictor - most)));
  const total = parts.reduce((sum, part) => sum + part, 0);
  return parts.map((part) => part / total);
}

/** Sums of boosted trees for a row, one per output. */
export const boostedScores = (
  model: Extract<Model, { algorithm: "boosted_trees" }>,
  row: FeatureRow,
): readonly number[] =>
  model.start.map((start, output) =>
    model.rounds.reduce((sum, trees) => sum + leafOf(trees[output]!, row).value[0]!, start),
  );

/** Turns predictors into predictions. */
function linked(link: "identity" | "logistic" | "softmax", predictors: readonly number[]): readonly number[] {
  if (link === "softmax") return shareOut(predictors);
  return link === "logistic" ? [probabilityOf(predictors[0]!)] : predictors;
}

/**
 * A row's prediction by the core's own arithmetic: the probability of yes, the number, or a probability for each class.
 * NaN where a number the model needs is missing.
 * @param row feature values: numbers for number columns, the text (or null) for categories
 */
export function predict(model: Model, row: FeatureRow): readonly number[] {
  switch (model.algorithm) {
    case "base_rate":
      return model.outputs;
    case "linear_regression":
      return [linearSum(model, row)];
    case "logistic_regression":
      return [probabilityOf(linearSum(model, row))];
    case "multinomial_regression":
      return shareOut([0, ...model.predictors.map((part) => linearSum(part, row))]);
    case "support_vector":
      return [probabilityOf(model.calibration.slope * linearSum(model, row) + model.calibration.offset)];
    case "naive_bayes": {
      const shares = shareOut(logShares(model, row));
      return model.priors.length === 2 && model.binary ? [shares[1]!] : shares;
    }
    case "decision_tree":
      return leafOf(model.tree, row).value;
    case "random_forest": {
      const leaves = model.trees.map((tree) => leafOf(tree, row).value);
      return leaves[0]!.map(
        (_, output) => leaves.reduce((sum, value) => sum + value[output]!, 0) / leaves.length,
      );
    }
    case "boosted_trees":
      return linked(model.link, boostedScores(model, row));
    case "nearest_neighbours": {
      const found = vote(model, row);
      return model.classes === 2 && model.binary ? [found[1]!] : found;
    }
    case "neural_network":
      return linked(
        model.link,
        networkSums(model, row).map((sum) => sum * model.target.spread + model.target.centre),
      );
  }
}

/** Names of the columns that a model reads. */
export function columnsRead(model: Model): {
  readonly numbers: ReadonlySet<string>;
  readonly categories: ReadonlySet<string>;
} {
  const numbers = new Set<string>();
  const categories = new Set<string>();
  const single = "intercept" in model ? [model] : [];
  const parts = model.algorithm === "multinomial_regression" ? model.predictors : single;
  for (const part of parts) {
    part.numbers.forEach((number) => numbers.add(number.column));
    part.categories.forEach((category) => categories.add(category.column));
  }
  if (model.algorithm === "naive_bayes") {
    [...model.normals, ...model.terms].forEach((normal) => numbers.add(normal.column));
    model.categories.forEach((category) => categories.add(category.column));
  }
  if (model.algorithm === "nearest_neighbours" || model.algorithm === "neural_network") {
    model.numbers.forEach((number) => numbers.add(number.column));
    model.categories.forEach((category) => categories.add(category.column));
  }
  for (const { nodes } of treesOf(model))
    for (const node of nodes)
      if (node.kind !== "leaf") (node.kind === "number" ? numbers : categories).add(node.column);
  return { numbers, categories };
}

/** The trees of a model, if it has any. */
export function treesOf(model: Model): readonly Extract<Model, { algorithm: "decision_tree" }>["tree"][] {
  if (model.algorithm === "decision_tree") return [model.tree];
  if (model.algorithm === "random_forest") return model.trees;
  return model.algorithm === "boosted_trees" ? model.rounds.flat() : [];
}
