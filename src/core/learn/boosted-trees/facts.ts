import { z } from "zod";
import { balance, bins, categoryColumns, held, leastGain, leastRows, seed } from "../common-settings";
import { ALL_TARGETS, BOTH_ENGINES, streams, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const boostSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  ...bins,
  ...seed,
  ...held,
  loss: z
    .enum(["squared", "absolute"])
    .default("squared")
    .describe(
      "For numbers: squared error, or absolute error, which is less sensitive to outliers. Classes use the log loss.",
    ),
  trees: z
    .int()
    .min(1)
    .max(5000)
    .default(300)
    .describe("Maximum number of trees (per class for several classes)."),
  learning_rate: z
    .number()
    .gt(0)
    .max(1)
    .default(0.1)
    .describe("Shrinkage of each tree. Smaller values need more trees and often perform better."),
  depth: z.int().min(1).max(12).default(6).describe("Maximum depth."),
  least_rows: leastRows(20),
  least_gain: leastGain,
  leaf_penalty: z
    .number()
    .min(0)
    .default(1)
    .describe("L2 penalty that shrinks the values of leaves with few rows."),
  rows_share: z.number().gt(0).max(1).default(1).describe("Share of the rows sampled for each tree."),
  columns_share: z.number().gt(0).max(1).default(1).describe("Share of the features sampled for each tree."),
  stop_after: z
    .int()
    .min(1)
    .default(20)
    .describe("Early stopping: ends after this many trees without a lower validation loss."),
});
export type BoostSettings = z.infer<typeof boostSettings>;

export const boostFacts = {
  settings: boostSettings,
  title: "Boosted trees",
  about: "Many small trees, each correcting the previous ones. Often the best on tabular data.",
  targets: ALL_TARGETS,
  engines: BOTH_ENGINES,
  prefers: streams,
} as const satisfies LearnerFacts & { readonly settings: unknown };
