import type { Matrix } from "../numeric/cholesky";
import type { Design, NumberSummary } from "./linear/design";
import type { ColumnData } from "./memory/column-data";
import type { Task } from "./task";
import type { TreeQuestions } from "./trees/tree-questions";

/** Which rows a question is about: all training rows, or the fixed sample among them. */
export type Scope = "all" | "sample";

/**
 * Losses of a linear predictor eta, for one row: squared (eta - y)^2 / 2 with y on the design's target scale;
 * logistic, with y 1 or 0; squared hinge max(0, 1 - (2 y - 1) eta)^2 / 2.
 */
export type LinearLoss = "squared" | "logistic" | "squared_hinge";

export interface FrameSummary {
  readonly rows: number;
  /** Rows whose target is missing. */
  readonly unanswered: number;
  /** Sum of the row weights; the rows when there are none. */
  readonly weight: number;
  /** Rows whose weight is missing, negative or not finite. */
  readonly badWeights: number;
  /** Of the target as a number (1 and 0 for yes and no); the mean is weighted. */
  readonly target: {
    readonly mean: number;
    readonly deviation: number;
    readonly smallest: number;
    readonly largest: number;
  };
  /** Rows and weight of each class, by code; empty for numbers. For yes and no: first the negative, then the positive rows. */
  readonly classes: readonly { readonly rows: number; readonly weight: number }[];
  readonly numbers: readonly (NumberSummary & { readonly missing: number })[];
  /** Per category, rows and the sum of the target by code; index 0 is code 1. */
  readonly categories: readonly {
    readonly column: string;
    readonly rows: readonly number[];
    readonly sums: readonly number[];
  }[];
}

/** Sums over rows at given coefficients, on the solver's scale. */
export interface Slope {
  /** Sum of the weights. */
  readonly rows: number;
  /** Sum of the losses. */
  readonly loss: number;
  readonly gradient: Float64Array;
}

export interface Curvature extends Slope {
  /** Second derivatives of the summed loss. */
  readonly hessian: Matrix;
}

/** Values present of a number column among the rows of one class. */
export interface ClassMoments {
  readonly weight: number;
  readonly mean: number;
  /** Sum of the weighted squared distances from the mean. */
  readonly squares: number;
  /** Sum of the values: what a count column needs. */
  readonly sum: number;
}

/** What is known of the features within each class. */
export interface ClassTables {
  readonly numbers: readonly { readonly column: string; readonly byClass: readonly ClassMoments[] }[];
  /** Weight of each level (index 0 is code 1) within each class: counts[level][class]. */
  readonly categories: readonly {
    readonly column: string;
    readonly counts: readonly (readonly number[])[];
  }[];
}

/** How many rows, by answer, have a margin within one small interval. */
export interface MarginCount {
  readonly margin: number;
  readonly positives: number;
  readonly negatives: number;
}

/** Rows of one part of several, by the rows' stable random numbers. */
export interface DrawnPart {
  readonly of: number;
  readonly part: number;
  /** Its rows, or all the others. */
  readonly inside: boolean;
}

/**
 * What a learner may ask about a training frame. Every answer is a sum over rows (or, for cuts and medians, an order statistic),
 * so sums can be taken in parts (by partition, by server, by thread) and added up. Learners never see rows, but for those
 * that cannot do without ({@link columns}).
 */
export interface FrameQuestions {
  readonly task: Task;
  readonly engine: "warehouse" | "streaming";
  readonly summary: () => Promise<FrameSummary>;
  /** Draws the fixed sample, at most about `rows` rows, and gives how many it has. */
  readonly drawSample: (design: Design, rows: number, total: number) => Promise<number>;
  /** Loss and gradient. `coefficients` are on the solver's scale. */
  readonly slope: (
    design: Design,
    coefficients: Float64Array,
    loss: LinearLoss,
    scope: Scope,
  ) => Promise<Slope>;
  /** Loss, gradient and Hessian. */
  readonly curvature: (
    design: Design,
    coefficients: Float64Array,
    loss: LinearLoss,
    scope: Scope,
  ) => Promise<Curvature>;
  /** Loss and gradient of the multinomial log loss; one vector of coefficients for each class but the first, one after the other. */
  readonly classSlope: (design: Design, coefficients: Float64Array, scope: Scope) => Promise<Slope>;
  readonly classTables: () => Promise<ClassTables>;
  /** Rows by margin (a linear predictor), rounded to 1/1000 and kept within ±30. */
  readonly marginCounts: (design: Design, coefficients: Float64Array) => Promise<readonly MarginCount[]>;
  /** Weighted median of a number target: the smallest value at which half of the weight is reached. */
  readonly targetMedian: () => Promise<number>;
  /** The target of the latest row by the time column; undefined when there is no time. */
  readonly latestTarget: () => Promise<number | undefined>;
  readonly trees: TreeQuestions;
  /** The rows themselves, when they were streamed. */
  readonly columns?: ColumnData;
  /** The same questions about a part of the rows. */
  readonly part: (part: DrawnPart) => FrameQuestions;
  /** The same questions with each row's weight multiplied by that of its class. */
  readonly balanced: (weights: readonly number[]) => FrameQuestions;
  /** How many numbers have come out so far. */
  readonly numbersOut: () => number;
}
