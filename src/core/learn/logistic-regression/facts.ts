import { z } from "zod";
import { balance, linearFields, ridge } from "../common-settings";
import { BOTH_ENGINES, byWidth, CLASS_TARGETS, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const logisticSettings = z.strictObject({ ...linearFields, ...balance, ridge });
export type LogisticSettings = z.infer<typeof logisticSettings>;

export const logisticFacts = {
  settings: logisticSettings,
  title: "Logistic regression",
  about: "A weighted sum of the features, turned into a probability. Easy to interpret; linear effects only.",
  targets: CLASS_TARGETS,
  engines: BOTH_ENGINES,
  prefers: byWidth,
} as const satisfies LearnerFacts & { readonly settings: unknown };
