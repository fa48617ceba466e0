import { z } from "zod";
import { categoryColumns } from "../common-settings";
import { ALL_TARGETS, BOTH_ENGINES, inWarehouse, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const baseRateSettings = z.strictObject({
  ...categoryColumns,
  predict: z
    .enum(["mean", "median", "most_frequent", "last"])
    .default("mean")
    .describe(
      "mean: the mean target, or the shares of the classes. median, for numbers. most_frequent: the most frequent class. last: the latest value by the time column.",
    ),
});
export type BaseRateSettings = z.infer<typeof baseRateSettings>;

export const baseRateFacts = {
  settings: baseRateSettings,
  title: "Base rate",
  about: "The same prediction for every row; the baseline for all other algorithms.",
  targets: ALL_TARGETS,
  engines: BOTH_ENGINES,
  prefers: inWarehouse,
} as const satisfies LearnerFacts & { readonly settings: unknown };
