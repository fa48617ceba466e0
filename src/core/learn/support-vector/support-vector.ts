import { z } from "zod";
import { success, type Result } from "../../problem";
import type { Fitted, FitOptions } from "../fitting";
import { fitRecord } from "../fit-record";
import type { FrameQuestions, MarginCount } from "../questions";
import type { SupportVectorSettings } from "./facts";
import { linearPartSchema } from "../linear/linear-part";
import { solveLinear } from "../linear/newton";
import { prepareDesign } from "../linear/prepare";
import { coefficientSchema, readable } from "../linear/readable";

/** A linear support-vector classifier as data: a margin, and how it becomes a probability. */
export const supportVectorModelSchema = linearPartSchema.extend({
  algorithm: z.literal("support_vector"),
  coefficients: z.array(coefficientSchema),
  /** probability = 1 / (1 + exp(-(slope * margin + offset))). */
  calibration: z.object({ slope: z.number(), offset: z.number() }),
  fit: fitRecord.extend({ positives: z.number(), ridge: z.number() }),
});
export type SupportVectorModel = z.infer<typeof supportVectorModelSchema>;

/** Parts into which rows are put, so that the margins that calibrate come from fits that did not see their rows. */
const CALIBRATION_PARTS = 3;

/**
 * Fits a linear classifier with squared hinge loss, and the logistic curve that turns its margins into probabilities; the
 * curve is fitted to margins of rows that the fit behind them has not seen.
 * Sources: Keerthi and DeCoste, "A modified finite Newton method for fast solution of large scale linear SVMs", JMLR 6, 2005;
 * Platt, "Probabilistic outputs for support vector machines", 1999, with the targets of Lin, Lin and Weng, Machine Learning 68, 2007.
 */
export async function fitSupportVector(
  ask: FrameQuestions,
  settings: SupportVectorSettings,
  options: FitOptions,
): Promise<Result<Fitted<SupportVectorModel>>> {
  const summary = await ask.summary();
  const prepared = prepareDesign(summary, {
    categories: options.categories,
    reference: settings.reference,
    missing: settings.missing,
  });
  if (!prepared.ok) return prepared;
  const design = prepared.value;
  const solve = (asked: FrameQuestions, rows: number, onPass: FitOptions["onPass"]) =>
    solveLinear(asked, design, { settings, loss: "squared_hinge", rows, intercept: 0, onPass });
  const margins: MarginCount[] = [];
  for (let part = 0; part < CALIBRATION_PARTS; part += 1) {
    const others = ask.part({ of: CALIBRATION_PARTS, part, inside: false });
    const fitted = await solve(others, (await others.summary()).rows, undefined);
    if (!fitted.ok) return fitted;
    margins.push(
      ...(await ask
        .part({ of: CALIBRATION_PARTS, part, inside: true })
        .marginCounts(design, fitted.value.coefficients)),
    );
  }
  const solved = await solve(ask, summary.rows, options.onPass);
  if (!solved.ok) return solved;
  const { coefficients, passes, sampled } = solved.value;
  const last = passes.at(-1)!;
  return success({
    warnings: [],
    model: {
      algorithm: "support_vector",
      ...readable(design, coefficients, undefined, summary, () => Number.NaN),
      calibration: calibrate(margins),
      fit: {
        rows: summary.rows,
        positives: summary.classes[1]?.rows ?? 0,
        ridge: settings.ridge,
        sampleRows: sampled,
        passes: [...passes],
        engine: ask.engine,
        meanLoss: last.loss,
        gradientNorm: last.gradientNorm,
        numbersOut: ask.numbersOut(),
      },
    },
  });
}

/** The logistic curve over margins with the largest likelihood, by Newton's method; targets are drawn in a little from 0 and 1. */
export function calibrate(counts: readonly MarginCount[]): {
  readonly slope: number;
  readonly offset: number;
} {
  const positives = counts.reduce((sum, count) => sum + count.positives, 0);
  const negatives = counts.reduce((sum, count) => sum + count.negatives, 0);
  const high = (positives + 1) / (positives + 2);
  const low = 1 / (negatives + 2);
  let slope = 1;
  let offset = Math.log((positives + 1) / (negatives + 1));
  const lossAt = (a: number, b: number): number =>
    counts.reduce((sum, { margin, positives: yes, negatives: no }) => {
      const eta = a * margin + b;
      const wanted = yes * high + no * low;
      return sum + (yes + no) * (Math.max(eta, 0) + Math.log1p(Math.exp(-Math.abs(eta)))) - wanted * eta;
    }, 0);
  for (let pass = 0; pass < 100; pass += 1) {
    let [ga, gb, haa, hab, hbb] = [0, 0, 1e-12, 0, 1e-12];
    for (const { margin, positives: yes, negatives: no } of counts) {
      const p = 1 / (1 + Math.exp(-(slope * margin + offset)));
      const residual = (yes + no) * p - (yes * high + no * low);
      const weight = (yes + no) * p * (1 - p);
      ga += residual * margin;
      gb += residual;
      haa += weight * margin * margin;
      hab += weight * margin;
      hbb += weight;
    }
    const determinant = haa * hbb - hab * hab;
    const da = (hbb * ga - hab * gb) / determinant;
    const db = (haa * gb - hab * ga) / determinant;
    let share = 1;
    const here = lossAt(slope, offset);
    while (share > 1e-10 && lossAt(slope - share * da, offset - share * db) > here) share /= 2;
    slope -= share * da;
    offset -= share * db;
    if (Math.max(Math.abs(da), Math.abs(db)) < 1e-12) break;
  }
  return { slope, offset };
}
