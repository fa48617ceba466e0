/**
 * What trees are grown on: losses of boosting (squared, absolute, logistic, softmax), and gini for single trees and forests of
 * several classes. Trees and forests of a number or of yes and no use squared.
 */
export type TreeLoss = "squared" | "absolute" | "logistic" | "softmax" | "gini";

/** Which rows take part in growing a tree, and how often each. */
export type RowSample =
  | { readonly kind: "all" }
  | { readonly kind: "share"; readonly share: number; readonly seed: number }
  /** Each row as often as a Poisson number with mean 1 says, drawn from the row's own random number. */
  | { readonly kind: "bootstrap"; readonly seed: number };

export interface TreeStart {
  /** Cut points of each number column, ascending: bin b > 0 holds values from cut b - 2 up to, not including, cut b - 1; bin 0 is missing. */
  readonly cuts: readonly Float64Array[];
  readonly loss: TreeLoss;
  /** One score per output: classes for softmax, else one. */
  readonly outputs: number;
  /** Scores before the first tree. */
  readonly start: readonly number[];
  /** Rows that take no part in growing and say when to stop. */
  readonly held?: HeldRows | undefined;
}

/** How rows are drawn in strata of their targets: each row has a number in [0, 1), hashed from its own random number and a seed. */
export interface Strata {
  readonly seed: number;
  /** Values that part the targets, ascending; the codes of classes lie between them. */
  readonly cuts: readonly number[];
}

/** Of each stratum the rows whose number is at least the first of its bounds, and below the second. */
export interface HeldRows extends Strata {
  readonly bounds: readonly (readonly [number, number])[];
}

/** A split that has been decided. Columns are numbered: first the numbers, then the categories, in the frame's order. */
export interface AppliedSplit {
  readonly node: number;
  readonly column: number;
  /** Numbers: bins from 1 to this go left. */
  readonly lastBin?: number;
  /** Categories: these codes go left. */
  readonly codes?: readonly number[];
  /** Whether a missing number, or a category never seen, goes left. */
  readonly missingLeft: boolean;
  readonly left: number;
  readonly right: number;
}

/** Sums of a histogram per bin: for gini the weight of each class, then rows; else gradients, curvatures, rows. */
export const statisticsOf = (loss: TreeLoss, classes: number): number => (loss === "gini" ? classes + 1 : 3);

/** A node and columns whose histograms are wanted. */
export interface HistogramRequest {
  readonly node: number;
  readonly columns: readonly number[];
}

/**
 * Sums of one node: the requested columns one after the other, of each its bins times statistics. Every sum is a whole multiple of
 * one over the scale, so that it is exact in whatever order it was taken. One array per node, since very many small ones are slow.
 */
export interface NodeHistogram {
  readonly node: number;
  readonly sums: Float64Array;
  /** Where the sums of each column begin and end. */
  readonly columns: readonly { readonly column: number; readonly from: number; readonly to: number }[];
}

export interface Losses {
  /** Mean loss over the rows that trees are grown on. */
  readonly training: number;
  readonly validation?: number;
}

/**
 * What a grower of trees may ask. Rounds go: beginRound (gradients from the scores so far), then for each output grow, histograms
 * level by level, and add. Scores are kept where the rows are.
 */
export interface TreeQuestions {
  /** Cut points of every number column: between its values when there are few, else at quantiles of at most about 100,000 rows. */
  readonly cuts: (mostBins: number) => Promise<readonly Float64Array[]>;
  /** Values of the target that part the rows into so many parts of about the same size, ascending. */
  readonly targetCuts: (parts: number) => Promise<readonly number[]>;
  /**
   * The numbers that part each stratum: for a share s of its n rows the one below which round(s n) of them lie, Infinity for all.
   * One list per stratum, in the order of the shares.
   */
  readonly strata: (strata: Strata, shares: readonly number[]) => Promise<readonly (readonly number[])[]>;
  readonly begin: (start: TreeStart) => Promise<void>;
  readonly beginRound: () => Promise<void>;
  /** Begins a tree: sums over all rows that take part. */
  readonly grow: (output: number, sample: RowSample) => Promise<Float64Array>;
  /**
   * Histograms after the given splits (all of the tree so far, in order). Sums are already divided by their scales. Whoever asks
   * may change the arrays; they are used again when the next tree begins.
   */
  readonly histograms: (
    splits: readonly AppliedSplit[],
    wanted: readonly HistogramRequest[],
  ) => Promise<readonly NodeHistogram[]>;
  /** Weighted median of target minus score in each of the nodes, over the rows that take part. */
  readonly medians: (splits: readonly AppliedSplit[], nodes: readonly number[]) => Promise<readonly number[]>;
  /** Adds the tree's values to the scores of an output: values[i] holds one value per output of the node nodes[i]. */
  readonly add: (
    output: number,
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly number[],
  ) => Promise<void>;
  /** Adds the tree's prediction for each row left out of its sample; `values[i]` has one number per output. */
  readonly vote: (
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly (readonly number[])[],
  ) => Promise<void>;
  /** Mean loss at the scores so far. */
  readonly losses: () => Promise<Losses>;
  /** Mean loss of the mean prediction of the trees that did not see a row, and the rows that have one. */
  readonly outOfBag: () => Promise<{ readonly loss: number; readonly rows: number }>;
  readonly end: () => Promise<void>;
}
