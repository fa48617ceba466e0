import { z } from "zod";
import { categoryColumns } from "../common-settings";
import { ALL_TARGETS, streams, type LearnerFacts } from "../learner-facts";

/** Settings as they stand in a pipeline file, with what each means. */
export const neighbourSettings = z.strictObject({
  ...categoryColumns,
  k: z.int().min(1).max(500).default(15).describe("Number of neighbours."),
  weighting: z
    .enum(["equal", "distance"])
    .default("equal")
    .describe("equal: neighbours count equally. distance: nearer ones count more."),
  most_rows: z
    .int()
    .min(10)
    .max(50000)
    .default(2000)
    .describe("Maximum training rows stored; scoring time grows in proportion."),
});
export type NeighbourSettings = z.infer<typeof neighbourSettings>;

export const neighbourFacts = {
  settings: neighbourSettings,
  title: "Nearest neighbours",
  about: "Predicts from the most similar training rows.",
  targets: ALL_TARGETS,
  engines: ["streaming"],
  prefers: streams,
} as const satisfies LearnerFacts & { readonly settings: unknown };
