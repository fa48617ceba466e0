import { formatNumber } from "../../format/numbers";
import { z } from "zod";
import { cholesky, inverse, type Matrix } from "../../numeric/cholesky";
import { twoSidedStudent } from "../../numeric/student";
import { failure, problem, success, type Result } from "../../problem";
import type { Fitted, FitOptions } from "../fitting";
import { fitRecord } from "../fit-record";
import type { FrameQuestions, FrameSummary } from "../questions";
import type { LinearSettings } from "./facts";
import type { Pass } from "../watch";
import type { Design } from "../linear/design";
import { collinear } from "../linear/diagnose";
import { coordinateDescent } from "../linear/elastic-net";
import { linearPartSchema } from "../linear/linear-part";
import { solveLinear } from "../linear/newton";
import { prepareDesign } from "../linear/prepare";
import { coefficientSchema, readable } from "../linear/readable";

/** A fitted linear regression as data. */
export const linearModelSchema = linearPartSchema.extend({
  algorithm: z.literal("linear_regression"),
  coefficients: z.array(coefficientSchema),
  fit: fitRecord.extend({
    ridge: z.number(),
    lasso: z.number(),
    /** Of the training rows. */
    rSquared: z.number(),
    /** Root of the residual sum of squares over the degrees of freedom left. */
    residualError: z.number(),
    degrees: z.number(),
  }),
});
export type LinearModel = z.infer<typeof linearModelSchema>;

/** The target's own scale, on which squared losses are of size 1. */
export function targetScale(summary: FrameSummary): Design["target"] {
  const { mean, deviation } = summary.target;
  return { centre: mean, spread: deviation > 0 ? deviation : 1 };
}

/**
 * Fits a linear regression: least squares, with a penalty on squares (ridge), on absolute values (lasso), or both (elastic net).
 * Penalties are on the coefficients per standard deviation: mean of (y - prediction)^2 / 2 + ridge / 2 * sum b^2 + lasso * sum |b|.
 * Problems: target_missing, constant_target, collinear, not_converged, feature_missing, not_finite.
 */
export async function fitRegression(
  ask: FrameQuestions,
  settings: LinearSettings,
  options: FitOptions,
): Promise<Result<Fitted<LinearModel>>> {
  const summary = await ask.summary();
  const prepared = prepareDesign(summary, {
    categories: options.categories,
    reference: settings.reference,
    missing: settings.missing,
    target: targetScale(summary),
  });
  if (!prepared.ok) return prepared;
  const design = prepared.value;
  if (!(summary.target.largest > summary.target.smallest))
    return failure(
      problem(
        "constant_target",
        `All ${formatNumber(summary.rows)} training rows have the same target, ${formatNumber(summary.target.mean)}.`,
        "Check the target column.",
      ),
    );
  const solved =
    settings.lasso > 0
      ? await sparse(ask, design, settings, options)
      : await dense(ask, design, settings, summary, options);
  if (!solved.ok) return solved;
  const { coefficients, information, passes } = solved.value;
  const last = passes.at(-1)!;
  // The loss at the solution, from the slope of the last pass, without the penalties.
  const squares = 2 * (last.loss - penaltyOf(coefficients, settings, design)) * summary.weight;
  const inModel = coefficients.reduce(
    (count, coefficient, index) => (index === 0 || coefficient !== 0 ? count + 1 : count),
    0,
  );
  const degrees = summary.rows - inModel;
  const variance = squares / summary.weight;
  const scaleOut = summary.rows / Math.max(1, degrees);
  const factor = information && cholesky(information);
  if (factor?.kind === "dependent") return failure(collinear(design, factor.index, factor.combination));
  const covariance: Matrix | undefined =
    factor && degrees > 0
      ? inverse(factor.lower).map((row) => row.map((value) => value * variance * scaleOut))
      : undefined;
  return success({
    warnings: [],
    model: {
      algorithm: "linear_regression",
      ...readable(design, coefficients, covariance, summary, (ratio) => twoSidedStudent(ratio, degrees)),
      fit: {
        rows: summary.rows,
        engine: ask.engine,
        numbersOut: ask.numbersOut(),
        passes: [...passes],
        ridge: settings.ridge,
        lasso: settings.lasso,
        sampleRows: solved.value.sampled,
        meanLoss: last.loss,
        ...(last.gradientNorm === undefined ? {} : { gradientNorm: last.gradientNorm }),
        errorsFrom: solved.value.errorsFrom,
        rSquared: 1 - variance,
        residualError: Math.sqrt(Math.max(0, variance * scaleOut)) * design.target.spread,
        degrees,
      },
    },
  });
}

interface Solved {
  readonly coefficients: Float64Array;
  /** Cross products, penalty included; undefined where errors would mean nothing. */
  readonly information: Matrix | undefined;
  readonly passes: readonly Pass[];
  readonly sampled: number;
  readonly errorsFrom: "all rows" | "sample";
}

/** Without a lasso: Newton's method, which ends in one step when the sample is all the rows. The last pass shows the loss at the solution. */
function dense(
  ask: FrameQuestions,
  design: Design,
  settings: LinearSettings,
  summary: FrameSummary,
  options: FitOptions,
): Promise<Result<Solved>> {
  return solveLinear(ask, design, {
    settings,
    loss: "squared",
    rows: summary.rows,
    intercept: 0,
    onPass: options.onPass,
  });
}

/** The penalties at a solution, as a part of the mean loss on the target's scale. */
function penaltyOf(
  coefficients: Float64Array,
  { ridge, lasso: wanted }: LinearSettings,
  design: Design,
): number {
  const lasso = wanted / design.target.spread;
  let penalty = 0;
  for (let index = 1; index < coefficients.length; index += 1)
    penalty += (ridge / 2) * coefficients[index]! ** 2 + lasso * Math.abs(coefficients[index]!);
  return penalty;
}

/** With a lasso: the cross products of all rows, once, and coordinate descent on them. */
async function sparse(
  ask: FrameQuestions,
  design: Design,
  settings: LinearSettings,
  options: FitOptions,
): Promise<Result<Solved>> {
  const { spread } = design.target;
  const start = await ask.curvature(design, new Float64Array(design.terms.length), "squared", "all");
  const weight = start.rows;
  // The file's lasso is in units of the target; the solver's target has spread 1.
  const lasso = settings.lasso / spread;
  const found = coordinateDescent(
    start.hessian,
    start.gradient.map((value) => -value),
    lasso * weight,
    settings.ridge * weight,
    settings.tolerance,
  );
  if (!found)
    return failure(
      problem(
        "not_converged",
        "The lasso did not converge.",
        "Set a small ridge as well, such as 0.001, for collinear features.",
      ),
    );
  const end = await ask.slope(design, found, "squared", "all");
  const loss = end.loss / weight + penaltyOf(found, settings, design);
  const passes: Pass[] = [
    { pass: 1, scope: "all", loss: start.loss / weight },
    { pass: 2, scope: "all", loss },
  ];
  for (const pass of passes) await options.onPass?.(pass);
  return success({
    coefficients: found,
    information: undefined,
    passes,
    sampled: weight,
    errorsFrom: "all rows",
  });
}
