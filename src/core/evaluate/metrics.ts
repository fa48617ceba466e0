import type { Task } from "../learn/task";

/** Names of metrics as they stand in a file. */
export const METRIC_NAMES = [
  "auc",
  "average_precision",
  "ks",
  "log_loss",
  "brier",
  "accuracy",
  "macro_f1",
  "rmse",
  "mae",
  "median_error",
  "r_squared",
  "percentage_error",
] as const;
export type MetricName = (typeof METRIC_NAMES)[number];

/** Figures of a model on some rows; null where a figure does not exist (an AUC of one class only). */
export type Figures = Readonly<Partial<Record<MetricName, number | null>>>;

export interface MetricFacts {
  readonly title: string;
  readonly about: string;
  readonly better: "high" | "low";
  readonly targets: readonly Task["kind"][];
}

const CLASSES: readonly Task["kind"][] = ["binary", "classes"];

export const METRICS: Readonly<Record<MetricName, MetricFacts>> = {
  auc: {
    title: "AUC",
    about: "How often a positive row gets a higher probability than a negative one; chance is 0.5.",
    better: "high",
    targets: ["binary"],
  },
  average_precision: {
    title: "Average precision",
    about: "Precision, averaged over the recall; the base rate when scores say nothing.",
    better: "high",
    targets: ["binary"],
  },
  ks: {
    title: "Largest distance",
    about:
      "Largest distance between the distributions of scores of positive and negative rows (Kolmogorov and Smirnov).",
    better: "high",
    targets: ["binary"],
  },
  log_loss: {
    title: "Log loss",
    about: "Mean of minus the logarithm of the probability given to what happened.",
    better: "low",
    targets: CLASSES,
  },
  brier: {
    title: "Brier score",
    about: "Mean squared error of the probabilities (summed over classes, when there are several).",
    better: "low",
    targets: CLASSES,
  },
  accuracy: {
    title: "Accuracy",
    about: "Share of the rows whose most probable class is right.",
    better: "high",
    targets: CLASSES,
  },
  macro_f1: {
    title: "Macro F1",
    about: "Mean over classes of the harmonic mean of precision and recall.",
    better: "high",
    targets: ["classes"],
  },
  rmse: {
    title: "RMSE",
    about: "Root of the mean squared error: large errors count more.",
    better: "low",
    targets: ["number"],
  },
  mae: {
    title: "Mean error",
    about: "Mean of the errors without their signs.",
    better: "low",
    targets: ["number"],
  },
  median_error: {
    title: "Median error",
    about: "Half of the errors are smaller: a few large ones do not move it.",
    better: "low",
    targets: ["number"],
  },
  r_squared: {
    title: "R²",
    about: "Share of the target's variance that is explained; 0 for the mean, below 0 for worse.",
    better: "high",
    targets: ["number"],
  },
  percentage_error: {
    title: "Percentage error",
    about: "Mean of error divided by target, over rows whose target is not 0.",
    better: "low",
    targets: ["number"],
  },
};

/** Metrics that there are for a target, the one that trials are ranked by first. */
export function metricsFor(kind: Task["kind"]): readonly MetricName[] {
  switch (kind) {
    case "binary":
      return ["log_loss", "auc", "average_precision", "brier", "ks", "accuracy"];
    case "classes":
      return ["log_loss", "accuracy", "macro_f1", "brier"];
    case "number":
      return ["rmse", "mae", "median_error", "r_squared", "percentage_error"];
  }
}

/** Whether one value of a metric is better than another. */
export const isBetter = (metric: MetricName, value: number, other: number): boolean =>
  METRICS[metric].better === "high" ? value > other : value < other;
