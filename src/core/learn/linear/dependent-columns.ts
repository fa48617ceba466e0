import { cholesky, type Matrix } from "../../numeric/cholesky";
import type { Problem } from "../../problem";
import type { FrameQuestions, LinearLoss } from "../questions";
import type { Design } from "./design";
import { collinear } from "./diagnose";

/** The place at which the curvature was measured on a sample. */
interface Measured {
  readonly coefficients: Float64Array;
  readonly loss: LinearLoss;
  readonly sample: Matrix;
  /** Whether the sample is all rows. */
  readonly whole: boolean;
}

/** Columns that can not be told apart, seen where every row still weighs the same. What a sample lacks is asked of all rows. */
export async function dependentColumns(
  ask: FrameQuestions,
  design: Design,
  { coefficients, loss, sample, whole }: Measured,
): Promise<Problem | undefined> {
  const first = cholesky(sample);
  if (first.kind === "factor") return undefined;
  const factor = whole ? first : cholesky((await ask.curvature(design, coefficients, loss, "all")).hessian);
  return factor.kind === "dependent" ? collinear(design, factor.index, factor.combination) : undefined;
}
