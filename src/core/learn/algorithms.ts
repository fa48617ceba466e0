import {
  baseRateSettings,
  bayesSettings,
  boostSettings,
  forestSettings,
  linearSettings,
  logisticSettings,
  neighbourSettings,
  networkSettings,
  supportVectorSettings,
  treeSettings,
} from "./settings";
import type { Engine, Task } from "./task";

/** What people are told of a learner, and what it can do. */
export interface AlgorithmFacts {
  readonly title: string;
  readonly about: string;
  readonly targets: readonly Task["kind"][];
  readonly engines: readonly Engine[];
  /** The engine when the file does not say, by the number of training rows and of number columns. */
  readonly prefers: (rows: number, numbers: number) => Engine;
}

const inWarehouse = (): Engine => "warehouse";
/** Number columns beyond which all their cross products as sums of a statement take minutes. */
const MANY_NUMBERS = 200;
const byWidth = (_rows: number, numbers: number): Engine =>
  numbers > MANY_NUMBERS ? "streaming" : "warehouse";
const streams = (): Engine => "streaming";
const ALL: readonly Task["kind"][] = ["binary", "number", "classes"];
const CLASSES: readonly Task["kind"][] = ["binary", "classes"];
const BOTH: readonly Engine[] = ["warehouse", "streaming"];

export const ALGORITHMS = {
  base_rate: {
    settings: baseRateSettings,
    title: "Base rate",
    about: "The same prediction for every row; the baseline for all other algorithms.",
    targets: ALL,
    engines: BOTH,
    prefers: inWarehouse,
  },
  linear_regression: {
    settings: linearSettings,
    title: "Linear regression",
    about: "A weighted sum of the features. Easy to interpret; linear effects only.",
    targets: ["number"],
    engines: BOTH,
    prefers: byWidth,
  },
  logistic_regression: {
    settings: logisticSettings,
    title: "Logistic regression",
    about:
      "A weighted sum of the features, turned into a probability. Easy to interpret; linear effects only.",
    targets: CLASSES,
    engines: BOTH,
    prefers: byWidth,
  },
  support_vector: {
    settings: supportVectorSettings,
    title: "Linear support vectors",
    about:
      "A straight border with as wide a margin as the rows allow; margins are turned into probabilities afterwards.",
    targets: ["binary"],
    engines: BOTH,
    prefers: byWidth,
  },
  naive_bayes: {
    settings: bayesSettings,
    title: "Naive Bayes",
    about: "Assumes that features are independent within each class. Fast, and good for text.",
    targets: CLASSES,
    engines: BOTH,
    prefers: inWarehouse,
  },
  decision_tree: {
    settings: treeSettings,
    title: "Decision tree",
    about: "A sequence of splits. Easy to interpret; coarse.",
    targets: ALL,
    engines: BOTH,
    prefers: streams,
  },
  random_forest: {
    settings: forestSettings,
    title: "Random forest",
    about: "The mean of many deep trees, each on random rows and features. Robust; needs little tuning.",
    targets: ALL,
    engines: BOTH,
    prefers: streams,
  },
  boosted_trees: {
    settings: boostSettings,
    title: "Boosted trees",
    about: "Many small trees, each correcting the previous ones. Often the best on tabular data.",
    targets: ALL,
    engines: BOTH,
    prefers: streams,
  },
  nearest_neighbours: {
    settings: neighbourSettings,
    title: "Nearest neighbours",
    about: "Predicts from the most similar training rows.",
    targets: ALL,
    engines: ["streaming"],
    prefers: streams,
  },
  neural_network: {
    settings: networkSettings,
    title: "Neural network",
    about:
      "Layers of weighted sums with non-linear activations. Finds non-linear effects and interactions; hard to interpret.",
    targets: ALL,
    engines: ["streaming"],
    prefers: streams,
  },
} as const satisfies Readonly<Record<string, AlgorithmFacts & { readonly settings: unknown }>>;

export type Algorithm = keyof typeof ALGORITHMS;

export const ALGORITHM_NAMES = Object.keys(ALGORITHMS) as [Algorithm, ...Algorithm[]];

/** What is known of a learner by its name in the file. */
export const factsOf = (algorithm: Algorithm): AlgorithmFacts => ALGORITHMS[algorithm];
