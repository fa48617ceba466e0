/** One pass over rows, one tree, or one round of a network, as reported while training runs. */
export interface Pass {
  readonly pass: number;
  /** What it was over: all rows, the fixed sample, a tree of an ensemble, or an epoch of a network. */
  readonly scope: "all" | "sample" | "tree" | "epoch";
  /** Mean loss over the training rows of the scope, penalty included. */
  readonly loss: number;
  /** Mean loss over rows kept apart to decide when to stop, or left out of the tree. */
  readonly validation?: number | undefined;
  /** Largest element of the mean gradient, on the solver's scale. */
  readonly gradientNorm?: number | undefined;
  /** Largest change of a coefficient, on the solver's scale. */
  readonly step?: number | undefined;
}

export type OnPass = (pass: Pass) => Promise<void> | void;
