import { z } from "zod";
import { balance, categoryColumns, held, seed } from "../common-settings";
import { ALL_TARGETS, streams, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const networkSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  ...seed,
  ...held,
  hidden: z
    .array(z.int().min(1).max(512))
    .min(1)
    .max(3)
    .default([16])
    .describe("Units of each hidden layer, one to three layers."),
  epochs: z.int().min(1).max(1000).default(60).describe("Maximum number of epochs."),
  learning_rate: z.number().gt(0).max(1).default(0.005).describe("Learning rate."),
  batch: z.int().min(1).max(10000).default(64).describe("Rows per mini-batch."),
  ridge: z.number().min(0).default(0.0001).describe("L2 penalty on the weights."),
  stop_after: z
    .int()
    .min(1)
    .default(8)
    .describe("Early stopping: ends after this many epochs without a lower validation loss."),
});
export type NetworkSettings = z.infer<typeof networkSettings>;

export const networkFacts = {
  settings: networkSettings,
  title: "Neural network",
  about:
    "Layers of weighted sums with non-linear activations. Finds non-linear effects and interactions; hard to interpret.",
  targets: ALL_TARGETS,
  engines: ["streaming"],
  prefers: streams,
} as const satisfies LearnerFacts & { readonly settings: unknown };
