import type { Candidate } from "../pipeline/schema";
import { success, type Result } from "../problem";
import type { Algorithm } from "./algorithms";
import { fitBaseRate } from "./base-rate/base-rate";
import { fitBayes } from "./naive-bayes/naive-bayes";
import type { Fitted, FitOptions } from "./fitting";
import { leftOutWarnings } from "./left-out";
import { fitLogistic } from "./logistic-regression/logistic";
import { fitMultinomial } from "./logistic-regression/multinomial";
import { fitRegression } from "./linear-regression/regression";
import { fitSupportVector } from "./support-vector/support-vector";
import type { Model } from "./model";
import { fitNeighbours } from "./nearest-neighbours/neighbours";
import { fitNetwork } from "./neural-network/train-network";
import type { FrameQuestions } from "./questions";
import { fitBoosted } from "./boosted-trees/boost";
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

type Fit<Name extends Algorithm> = (
  ask: FrameQuestions,
  settings: Extract<Candidate, { algorithm: Name }>["settings"],
  options: FitOptions,
) => Promise<Result<Fitted<Model>>>;

/** How each learner is fitted. */
const FITS: { readonly [Name in Algorithm]: Fit<Name> } = {
  base_rate: fitBaseRate,
  linear_regression: fitRegression,
  logistic_regression: (ask, settings, options) =>
    ask.task.kind === "classes"
      ? fitMultinomial(ask, settings, options)
      : fitLogistic(ask, settings, options),
  support_vector: fitSupportVector,
  naive_bayes: fitBayes,
  decision_tree: fitTree,
  random_forest: fitForest,
  boosted_trees: fitBoosted,
  nearest_neighbours: fitNeighbours,
  neural_network: fitNetwork,
};

async function fitLearner(
  ask: FrameQuestions,
  { algorithm, settings }: Candidate,
  options: FitOptions,
): Promise<Result<Fitted<Model>>> {
  const asked = "balance" in settings && settings.balance ? await balanced(ask) : ask;
  // A candidate's settings are those of its learner, which the compiler cannot follow through a union.
  const fit = FITS[algorithm] as Fit<Algorithm>;
  return fit(asked, settings, options);
}

/** The same questions with weights under which every class counts the same in all. */
async function balanced(ask: FrameQuestions): Promise<FrameQuestions> {
  const { classes, weight } = await ask.summary();
  const there = classes.filter((oneClass) => oneClass.weight > 0).length;
  return there < 2
    ? ask
    : ask.balanced(classes.map((oneClass) => (oneClass.weight > 0 ? weight / (there * oneClass.weight) : 0)));
}
