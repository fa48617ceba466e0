import { z } from "zod";
import { balance, bins, categoryColumns, leastGain, leastRows } from "../common-settings";
import { ALL_TARGETS, BOTH_ENGINES, streams, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const treeSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  ...bins,
  depth: z.int().min(1).max(20).default(5).describe("Maximum depth."),
  least_rows: leastRows(20),
  least_gain: leastGain,
});
export type TreeSettings = z.infer<typeof treeSettings>;

export const treeFacts = {
  settings: treeSettings,
  title: "Decision tree",
  about: "A sequence of splits. Easy to interpret; coarse.",
  targets: ALL_TARGETS,
  engines: BOTH_ENGINES,
  prefers: streams,
} as const satisfies LearnerFacts & { readonly settings: unknown };
