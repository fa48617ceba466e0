import { z } from "zod";
import { linearFields, ridge } from "../common-settings";
import { BOTH_ENGINES, byWidth, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const linearSettings = z.strictObject({
  ...linearFields,
  ridge,
  lasso: z
    .number()
    .min(0)
    .default(0)
    .describe(
      "L1 penalty on standardised coefficients, in units of the target: removes features that help little. With a ridge as well (elastic net), correlated features stay together.",
    ),
});
export type LinearSettings = z.infer<typeof linearSettings>;

export const linearFacts = {
  settings: linearSettings,
  title: "Linear regression",
  about: "A weighted sum of the features. Easy to interpret; linear effects only.",
  targets: ["number"],
  engines: BOTH_ENGINES,
  prefers: byWidth,
} as const satisfies LearnerFacts & { readonly settings: unknown };
