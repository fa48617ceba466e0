import { z } from "zod";
import { balance, bins, categoryColumns, leastRows, seed } from "../common-settings";
import { ALL_TARGETS, BOTH_ENGINES, streams, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const forestSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  ...bins,
  ...seed,
  trees: z.int().min(1).max(2000).default(100).describe("Number of trees."),
  depth: z.int().min(1).max(24).default(10).describe("Maximum depth."),
  least_rows: leastRows(5),
  columns_share: z
    .number()
    .gt(0)
    .max(1)
    .optional()
    .describe(
      "Share of the features considered at each split. If omitted: the square root of their number for classes, a third for numbers.",
    ),
});
export type ForestSettings = z.infer<typeof forestSettings>;

export const forestFacts = {
  settings: forestSettings,
  title: "Random forest",
  about: "The mean of many deep trees, each on random rows and features. Robust; needs little tuning.",
  targets: ALL_TARGETS,
  engines: BOTH_ENGINES,
  prefers: streams,
} as const satisfies LearnerFacts & { readonly settings: unknown };
