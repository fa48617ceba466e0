import { z } from "zod";
import { balance, linearFields } from "../common-settings";
import { BOTH_ENGINES, byWidth, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const supportVectorSettings = z.strictObject({
  ...linearFields,
  ...balance,
  ridge: z
    .number()
    .gt(0)
    .default(0.01)
    .describe(
      "L2 penalty on standardised coefficients. The smaller it is, the more margin violations count.",
    ),
});
export type SupportVectorSettings = z.infer<typeof supportVectorSettings>;

export const supportVectorFacts = {
  settings: supportVectorSettings,
  title: "Linear support vectors",
  about:
    "A straight border with as wide a margin as the rows allow; margins are turned into probabilities afterwards.",
  targets: ["binary"],
  engines: BOTH_ENGINES,
  prefers: byWidth,
} as const satisfies LearnerFacts & { readonly settings: unknown };
