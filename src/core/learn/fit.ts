import type { Candidate } from "../pipeline/schema";
import { success, type Result } from "../problem";
import { fitBaseRate } from "./base-rate/base-rate";
import { fitBayes } from "./bayes/naive-bayes";
import type { Fitted, FitOptions } from "./fitting";
import { leftOutWarnings } from "./left-out";
import { fitLogistic } from "./linear/logistic";
import { fitMultinomial } from "./linear/multinomial";
import { fitRegression } from "./linear/regression";
import { fitSupportVector } from "./linear/support-vector";
import type { Model } from "./model";
import { fitNeighbours } from "./neighbours/neighbours";
import { fitNetwork } from "./network/train-network";
import type { FrameQuestions } from "./questions";
import { fitBoosted } from "./trees/boost";
import { fitForest, fitTree } from "./trees/fit-trees";

/** Fits a candidate's learner by asking questions about the frame. Features that it cannot use are named in warnings. */
export async function fitCandidate(
  ask: FrameQuestions,
  candidate: Candidate,
  options: FitOptions,
): Promise<Result<Fitted<Model>>> {
  const fitted = await fitLearner(ask, candidate, options);
  if (!fitted.ok || candidate.algorithm === "base_rate") return fitted;
  const leftOut = leftOutWarnings(await ask.summary(), options);
  return success({ ...fitted.value, warnings: [...leftOut, ...fitted.value.warnings] });
}

async function fitLearner(
  ask: FrameQuestions,
  candidate: Candidate,
  options: FitOptions,
): Promise<Result<Fitted<Model>>> {
  const asked = "balance" in candidate.settings && candidate.settings.balance ? await balanced(ask) : ask;
  switch (candidate.algorithm) {
    case "base_rate":
      return fitBaseRate(asked, candidate.settings);
    case "linear_regression":
      return fitRegression(asked, candidate.settings, options);
    case "logistic_regression":
      return ask.task.kind === "classes"
        ? fitMultinomial(asked, candidate.settings, options)
        : fitLogistic(asked, candidate.settings, options);
    case "support_vector":
      return fitSupportVector(asked, candidate.settings, options);
    case "naive_bayes":
      return fitBayes(asked, candidate.settings, options);
    case "decision_tree":
      return fitTree(asked, candidate.settings, options);
    case "random_forest":
      return fitForest(asked, candidate.settings, options);
    case "boosted_trees":
      return fitBoosted(asked, candidate.settings, options);
    case "nearest_neighbours":
      return fitNeighbours(asked, candidate.settings, options);
    case "neural_network":
      return fitNetwork(asked, candidate.settings, options);
  }
}

/** The same questions with weights under which every class counts the same in all. */
async function balanced(ask: FrameQuestions): Promise<FrameQuestions> {
  const { classes, weight } = await ask.summary();
  const there = classes.filter((oneClass) => oneClass.weight > 0).length;
  return there < 2
    ? ask
    : ask.balanced(classes.map((oneClass) => (oneClass.weight > 0 ? weight / (there * oneClass.weight) : 0)));
}
