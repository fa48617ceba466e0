import { baseRateFacts } from "./base-rate/facts";
import { boostFacts } from "./boosted-trees/facts";
import { treeFacts } from "./decision-tree/facts";
import { linearFacts } from "./linear-regression/facts";
import { logisticFacts } from "./logistic-regression/facts";
import { bayesFacts } from "./naive-bayes/facts";
import { neighbourFacts } from "./nearest-neighbours/facts";
import { networkFacts } from "./neural-network/facts";
import { forestFacts } from "./random-forest/facts";
import { supportVectorFacts } from "./support-vector/facts";
import type { LearnerFacts } from "./learner-facts";

/** Every learner by its name in the file: its settings, its words, and what it can do. */
export const ALGORITHMS = {
  base_rate: baseRateFacts,
  linear_regression: linearFacts,
  logistic_regression: logisticFacts,
  support_vector: supportVectorFacts,
  naive_bayes: bayesFacts,
  decision_tree: treeFacts,
  random_forest: forestFacts,
  boosted_trees: boostFacts,
  nearest_neighbours: neighbourFacts,
  neural_network: networkFacts,
} as const satisfies Readonly<Record<string, LearnerFacts & { readonly settings: unknown }>>;

export type Algorithm = keyof typeof ALGORITHMS;

export const ALGORITHM_NAMES = Object.keys(ALGORITHMS) as [Algorithm, ...Algorithm[]];

/** What is known of a learner by its name in the file. */
export const factsOf = (algorithm: Algorithm): LearnerFacts => ALGORITHMS[algorithm];
