import { z } from "zod";

/*
 * Settings that several learners have, with what each means.
 */

export const categoryColumns = {
  most_levels: z
    .int()
    .min(2)
    .max(100000)
    .default(5000)
    .describe("Maximum number of categories of a text feature."),
};

export const linearFields = {
  ...categoryColumns,
  missing: z
    .enum(["stop", "mean"])
    .default("stop")
    .describe(
      "Missing numbers. stop: training fails with a message. mean: they are replaced by the column's mean.",
    ),
  tolerance: z
    .number()
    .gt(0)
    .default(1e-10)
    .describe("Training ends when every standardised coefficient is within this distance of the solution."),
  most_passes: z.int().min(1).default(60).describe("Maximum number of passes over the rows."),
  sample_rows: z.int().min(1000).default(50000).describe("Rows sampled to estimate the curvature (Hessian)."),
  reference: z
    .record(z.string(), z.string())
    .default({})
    .describe("Reference category per category column. The alphabetically first if omitted."),
};

export const ridge = z
  .number()
  .min(0)
  .default(0)
  .describe(
    "L2 penalty on standardised coefficients: mean loss + ridge / 2 * sum of (coefficient * standard deviation)^2.",
  );
export const balance = {
  balance: z
    .boolean()
    .default(false)
    .describe("true: all classes get equal total weight. Probabilities are then those of balanced classes."),
};
export const bins = {
  bins: z
    .int()
    .min(2)
    .max(255)
    .default(255)
    .describe("Number of bins per numeric feature; splits lie between bins."),
};
export const seed = {
  seed: z
    .int()
    .min(0)
    .default(1)
    .describe("Seed for sampling rows and columns; the same seed gives the same model."),
};
export const leastRows = (standard: number) =>
  z.int().min(1).default(standard).describe("Minimum training rows in a leaf.");
export const leastGain = z.number().min(0).default(0).describe("Minimum gain to split a node.");
export const held = {
  validation_share: z
    .number()
    .min(0)
    .max(0.5)
    .default(0.1)
    .describe(
      "Share of the training rows of every class, or of numbers of every size, set aside as validation rows for early stopping; 0: no early stopping. With few rows, boosting uses five-fold validation and then trains on all rows; a network sets a larger share aside.",
    ),
};
