import { z } from "zod";

/** Settings of the learners as they stand in a pipeline file, with what each means. */

const categoryColumns = {
  most_levels: z
    .int()
    .min(2)
    .max(100000)
    .default(5000)
    .describe("Maximum number of categories of a text feature."),
};

const linear = {
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

const ridge = z
  .number()
  .min(0)
  .default(0)
  .describe(
    "L2 penalty on standardised coefficients: mean loss + ridge / 2 * sum of (coefficient * standard deviation)^2.",
  );
const balance = {
  balance: z
    .boolean()
    .default(false)
    .describe("true: all classes get equal total weight. Probabilities are then those of balanced classes."),
};
const bins = {
  bins: z
    .int()
    .min(2)
    .max(255)
    .default(255)
    .describe("Number of bins per numeric feature; splits lie between bins."),
};
const seed = {
  seed: z
    .int()
    .min(0)
    .default(1)
    .describe("Seed for sampling rows and columns; the same seed gives the same model."),
};
const leastRows = (standard: number) =>
  z.int().min(1).default(standard).describe("Minimum training rows in a leaf.");
const leastGain = z.number().min(0).default(0).describe("Minimum gain to split a node.");
const held = {
  validation_share: z
    .number()
    .min(0)
    .max(0.5)
    .default(0.1)
    .describe(
      "Share of the training rows of every class, or of numbers of every size, set aside as validation rows for early stopping; 0: no early stopping. With few rows, boosting uses five-fold validation and then trains on all rows; a network sets a larger share aside.",
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
      "L1 penalty on standardised coefficients, in units of the target: removes features that help little. With a ridge as well (elastic net), correlated features stay together.",
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
      "L2 penalty on standardised coefficients. The smaller it is, the more margin violations count.",
    ),
});
export const bayesSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  smoothing: z
    .number()
    .min(0)
    .default(1)
    .describe(
      "Added to every count (additive smoothing), so that unseen combinations get a small probability.",
    ),
});
export const treeSettings = z.strictObject({
  ...categoryColumns,
  ...balance,
  ...bins,
  depth: z.int().min(1).max(20).default(5).describe("Maximum depth."),
  least_rows: leastRows(20),
  least_gain: leastGain,
});
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
