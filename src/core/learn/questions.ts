import type { Matrix } from "../numeric/cholesky";
import type { Design, NumberSummary } from "./design";

/** Which rows a question is about: all training rows, or the fixed sample among them. */
export type Scope = "all" | "sample";

export interface FrameSummary {
  readonly rows: number;
  readonly positives: number;
  /** Rows whose target is missing. */
  readonly unanswered: number;
  readonly numbers: readonly (NumberSummary & { readonly missing: number })[];
  /** Per category, rows and positive rows by code; index 0 is code 1. */
  readonly categories: readonly { readonly column: string; readonly rows: readonly number[]; readonly positives: readonly number[] }[];
}

/** Sums over rows at given coefficients, on the solver's scale. */
export interface Slope {
  readonly rows: number;
  /** Sum of the log losses. */
  readonly loss: number;
  readonly gradient: Float64Array;
}

export interface Curvature extends Slope {
  /** Second derivatives of the summed loss. */
  readonly hessian: Matrix;
}

/**
 * What a learner may ask about a training frame. Every answer is a sum over rows, so it can be taken
 * in parts (by partition, by server, by thread) and added up. Learners never see rows.
 */
export interface FrameQuestions {
  readonly summary: () => Promise<FrameSummary>;
  /** Draws the fixed sample, at most about `rows` rows, and gives how many it has. */
  readonly drawSample: (design: Design, rows: number, total: number) => Promise<number>;
  /** Loss and gradient of the logistic loss. `coefficients` are on the solver's scale. */
  readonly slope: (design: Design, coefficients: Float64Array, scope: Scope) => Promise<Slope>;
  /** Loss, gradient and Hessian of the logistic loss. */
  readonly curvature: (design: Design, coefficients: Float64Array, scope: Scope) => Promise<Curvature>;
  /** How many numbers have come out so far. */
  readonly numbersOut: () => number;
}
