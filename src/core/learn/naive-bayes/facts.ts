import { z } from "zod";
import { balance, categoryColumns } from "../common-settings";
import { BOTH_ENGINES, CLASS_TARGETS, inWarehouse, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const bayesSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  smoothing: z
    .number()
    .min(0)
    .default(1)
    .describe(
      "Added to every count (additive smoothing), so that unseen combinations get a small probability.",
    ),
});
export type BayesSettings = z.infer<typeof bayesSettings>;

export const bayesFacts = {
  settings: bayesSettings,
  title: "Naive Bayes",
  about: "Assumes that features are independent within each class. Fast, and good for text.",
  targets: CLASS_TARGETS,
  engines: BOTH_ENGINES,
  prefers: inWarehouse,
} as const satisfies LearnerFacts & { readonly settings: unknown };
