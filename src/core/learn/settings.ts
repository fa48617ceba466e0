import { z } from "zod";

/** Settings of the learners as they stand in a pipeline file, with what each means. */

const categoryColumns = {
  most_levels: z
    .int()
    .min(2)
    .max(100000)
    .default(5000)
    .describe("Most categories that a text column may have to be a feature."),
};

const linear = {
  ...categoryColumns,
  missing: z
    .enum(["stop", "mean"])
    .default("stop")
    .describe(
      "A number that is missing: stop says so and ends the training; mean lets the column's mean stand in.",
    ),
  tolerance: z
    .number()
    .gt(0)
    .default(1e-10)
    .describe("Training ends when no standardised coefficient is further than this from the solution."),
  most_passes: z.int().min(1).default(60).describe("Passes over the rows after which training gives up."),
  sample_rows: z
    .int()
    .min(1000)
    .default(50000)
    .describe("Rows of the sample on which the curvature is measured."),
  reference: z
    .record(z.string(), z.string())
    .default({})
    .describe(
      "Per category column, the category others are measured against. The alphabetically first when left out.",
    ),
};

const ridge = z
  .number()
  .min(0)
  .default(0)
  .describe(
    "Penalty on squared coefficients, measured per standard deviation: mean loss + ridge / 2 * sum of (coefficient * deviation)^2.",
  );
const balance = {
  balance: z
    .boolean()
    .default(false)
    .describe(
      "true: every class weighs the same, however many rows it has. Probabilities then are those of balanced classes.",
    ),
};
const bins = {
  bins: z
    .int()
    .min(2)
    .max(255)
    .default(255)
    .describe("Bins into which each number column is cut; splits lie between bins."),
};
const seed = {
  seed: z.int().min(0).default(1).describe("Draws rows and columns; the same seed gives the same model."),
};
const leastRows = (standard: number) =>
  z.int().min(1).default(standard).describe("Fewest training rows in a leaf.");
const leastGain = z.number().min(0).default(0).describe("Smallest gain for which a node is split.");
const held = {
  validation_share: z
    .number()
    .min(0)
    .max(0.5)
    .default(0.1)
    .describe(
      "Share of the training rows of every class, or of numbers of every size, kept apart to decide when to stop; 0: train to the end. Of few rows boosting lets all take turns in five parts, and then learns from all of them; a network keeps a larger share.",
    ),
};

export const baseRateSettings = z.strictObject({
  ...categoryColumns,
  predict: z
    .enum(["mean", "median", "most_frequent", "last"])
    .default("mean")
    .describe(
      "mean: the mean target, or the shares of the classes. median, for numbers. most_frequent: the most frequent class. last: the latest value by the time column.",
    ),
});
export const linearSettings = z.strictObject({
  ...linear,
  ridge,
  lasso: z
    .number()
    .min(0)
    .default(0)
    .describe(
      "Penalty on absolute coefficients per standard deviation, in units of the target: leaves out columns that help little. With a ridge beside it, columns that go together stay together.",
    ),
});
export const logisticSettings = z.strictObject({ ...linear, ...balance, ridge });
export const supportVectorSettings = z.strictObject({
  ...linear,
  ...balance,
  ridge: z
    .number()
    .gt(0)
    .default(0.01)
    .describe(
      "Penalty on squared coefficients per standard deviation. The smaller, the harder each row on the wrong side counts.",
    ),
});
export const bayesSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  smoothing: z
    .number()
    .min(0)
    .default(1)
    .describe("Added to every count, so that what never occurred together is unlikely, not impossible."),
});
export const treeSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  ...bins,
  depth: z.int().min(1).max(20).default(5).describe("Most questions from the root to a leaf."),
  least_rows: leastRows(20),
  least_gain: leastGain,
});
export const forestSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  ...bins,
  ...seed,
  trees: z.int().min(1).max(2000).default(100).describe("Number of trees."),
  depth: z.int().min(1).max(24).default(10).describe("Most questions from the root to a leaf."),
  least_rows: leastRows(5),
  columns_share: z
    .number()
    .gt(0)
    .max(1)
    .optional()
    .describe(
      "Share of the columns that each split may choose from. The root of their number for classes, a third for numbers, when left out.",
    ),
});
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
      "For numbers: squared errors, or absolute ones, which outliers move less. Classes use the log loss.",
    ),
  trees: z.int().min(1).max(5000).default(300).describe("Most trees (for several classes: per class)."),
  learning_rate: z
    .number()
    .gt(0)
    .max(1)
    .default(0.1)
    .describe("How much of each tree counts. Smaller needs more trees and often does better."),
  depth: z.int().min(1).max(12).default(6).describe("Most questions from the root to a leaf."),
  least_rows: leastRows(20),
  least_gain: leastGain,
  leaf_penalty: z.number().min(0).default(1).describe("Draws the values of leaves with few rows towards 0."),
  rows_share: z.number().gt(0).max(1).default(1).describe("Share of the rows that each tree sees."),
  columns_share: z.number().gt(0).max(1).default(1).describe("Share of the columns that each tree sees."),
  stop_after: z
    .int()
    .min(1)
    .default(20)
    .describe("Ends when so many trees in a row did not lower the loss on the rows kept apart."),
});
export const neighbourSettings = z.strictObject({
  ...categoryColumns,
  k: z.int().min(1).max(500).default(15).describe("Number of nearest rows that decide."),
  weighting: z
    .enum(["equal", "distance"])
    .default("equal")
    .describe("equal: each of them counts once. distance: nearer ones count more."),
  most_rows: z
    .int()
    .min(10)
    .max(50000)
    .default(2000)
    .describe("Training rows kept to compare with; scoring takes time in proportion."),
});
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
  epochs: z.int().min(1).max(1000).default(60).describe("Most passes over the rows."),
  learning_rate: z.number().gt(0).max(1).default(0.005).describe("Size of each step."),
  batch: z.int().min(1).max(10000).default(64).describe("Rows after which the weights are changed."),
  ridge: z.number().min(0).default(0.0001).describe("Penalty on squared weights."),
  stop_after: z
    .int()
    .min(1)
    .default(8)
    .describe("Ends when so many epochs in a row did not lower the loss on the rows kept apart."),
});

export type BaseRateSettings = z.infer<typeof baseRateSettings>;
export type LinearSettings = z.infer<typeof linearSettings>;
export type LogisticSettings = z.infer<typeof logisticSettings>;
export type SupportVectorSettings = z.infer<typeof supportVectorSettings>;
export type BayesSettings = z.infer<typeof bayesSettings>;
export type TreeSettings = z.infer<typeof treeSettings>;
export type ForestSettings = z.infer<typeof forestSettings>;
export type BoostSettings = z.infer<typeof boostSettings>;
export type NeighbourSettings = z.infer<typeof neighbourSettings>;
export type NetworkSettings = z.infer<typeof networkSettings>;
