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
    about:
      "Area under the ROC curve: the probability that a positive row scores higher than a negative one; 0.5 is random.",
    better: "high",
    targets: ["binary"],
  },
  average_precision: {
    title: "Average precision",
    about: "Area under the precision-recall curve; the base rate if scores are random.",
    better: "high",
    targets: ["binary"],
  },
  ks: {
    title: "Kolmogorov-Smirnov",
    about: "Largest distance between the cumulative score distributions of positive and negative rows.",
    better: "high",
    targets: ["binary"],
  },
  log_loss: {
    title: "Log loss",
    about: "Mean negative logarithm of the probability given to the actual class.",
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
    about: "Share of rows whose most probable class is correct.",
    better: "high",
    targets: CLASSES,
  },
  macro_f1: {
    title: "Macro F1",
    about: "Mean F1 over classes.",
    better: "high",
    targets: ["classes"],
  },
  rmse: {
    title: "RMSE",
    about: "Root mean squared error: large errors weigh more.",
    better: "low",
    targets: ["number"],
  },
  mae: {
    title: "Mean absolute error",
    about: "Mean of the absolute errors.",
    better: "low",
    targets: ["number"],
  },
  median_error: {
    title: "Median absolute error",
    about: "Median of the absolute errors: robust to a few large ones.",
    better: "low",
    targets: ["number"],
  },
  r_squared: {
    title: "R²",
    about: "Share of the target's variance explained; 0 for predicting the mean, below 0 if worse.",
    better: "high",
    targets: ["number"],
  },
  percentage_error: {
    title: "Mean absolute percentage error",
    about: "Mean absolute error divided by the target, over rows whose target is not 0.",
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
