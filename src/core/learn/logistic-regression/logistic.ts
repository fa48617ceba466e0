import { z } from "zod";
import { cholesky, inverse } from "../../numeric/cholesky";
import { twoSidedP } from "../../numeric/normal";
import { failure, success, type Result } from "../../problem";
import type { Fitted, FitOptions } from "../fitting";
import type { FrameQuestions } from "../questions";
import type { LogisticSettings } from "./facts";
import { divergence, separatedLevels } from "../linear/diagnose";
import { fitRecord } from "../fit-record";
import { linearPartSchema } from "../linear/linear-part";
import { solveLinear } from "../linear/newton";
import { prepareDesign } from "../linear/prepare";
import { coefficientSchema, readable } from "../linear/readable";

/** A fitted logistic regression as data: all that scoring and reading it need. */
export const logisticModelSchema = linearPartSchema.extend({
  algorithm: z.literal("logistic_regression"),
  /** Original units: change of the log odds for one unit. */
  coefficients: z.array(coefficientSchema),
  fit: fitRecord.extend({ positives: z.number(), ridge: z.number() }),
});
export type LogisticModel = z.infer<typeof logisticModelSchema>;

/**
 * Fits a binary logistic regression: see {@link solveLinear} for the method.
 * Problems: one_class, target_missing, separated, collinear, not_converged, feature_missing, not_finite.
 */
export async function fitLogistic(
  ask: FrameQuestions,
  settings: LogisticSettings,
  options: FitOptions,
): Promise<Result<Fitted<LogisticModel>>> {
  const summary = await ask.summary();
  const prepared = prepareDesign(summary, {
    categories: options.categories,
    reference: settings.reference,
    missing: settings.missing,
  });
  if (!prepared.ok) return prepared;
  const design = prepared.value;
  if (settings.ridge === 0) {
    const separated = separatedLevels(
      options.categories.flatMap((category) => {
        const counts = summary.categories.find((oneCategory) => oneCategory.column === category.column);
        return category.levels.length > 1 && counts
          ? [{ ...category, rows: counts.rows, positives: counts.sums }]
          : [];
      }),
    );
    if (separated) return failure(separated);
  }
  const share = summary.target.mean;
  const solved = await solveLinear(ask, design, {
    settings,
    loss: "logistic",
    rows: summary.rows,
    intercept: Math.log(share / (1 - share)),
    onPass: options.onPass,
  });
  if (!solved.ok) return solved;
  const { coefficients, information, passes, sampled, errorsFrom } = solved.value;
  const factor = cholesky(information);
  // At the start the columns could be told apart; if they no longer can, it is because the weights of all rows have gone to nothing.
  if (factor.kind === "dependent") return failure(divergence(design, coefficients));
  const last = passes.at(-1)!;
  return success({
    warnings: [],
    model: {
      algorithm: "logistic_regression",
      ...readable(design, coefficients, inverse(factor.lower), summary, twoSidedP),
      fit: {
        rows: summary.rows,
        positives: summary.classes[1]?.rows ?? 0,
        ridge: settings.ridge,
        sampleRows: sampled,
        passes: [...passes],
        engine: ask.engine,
        meanLoss: last.loss,
        gradientNorm: last.gradientNorm,
        errorsFrom,
        numbersOut: ask.numbersOut(),
      },
    },
  });
}
