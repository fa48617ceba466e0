import { z } from "zod";
import { cholesky, solve, type Matrix } from "../../numeric/cholesky";
import { failure, success, warning, type Result, type Problem } from "../../problem";
import type { Fitted, FitOptions } from "../fitting";
import { fitRecord } from "../fit-record";
import type { FrameQuestions, FrameSummary } from "../questions";
import type { LogisticSettings } from "./facts";
import { className, type Task } from "../task";
import type { Pass } from "../watch";
import { addClassPenalty, centreClasses } from "../linear/class-coefficients";
import { termName, type Design } from "../linear/design";
import { dependentColumns } from "../linear/dependent-columns";
import { collinear, listMoving, notSettled, separation } from "../linear/diagnose";
import { linearPartSchema } from "../linear/linear-part";
import { prepareDesign } from "../linear/prepare";
import { quasiNewton } from "../linear/quasi-newton";
import { coefficientSchema, readable, type CoefficientRow } from "../linear/readable";

/** A fitted multinomial logistic regression as data. Predictors are differences from the first class, whose own is 0. */
export const multinomialModelSchema = z.object({
  algorithm: z.literal("multinomial_regression"),
  classes: z.array(z.string()),
  /** Predictors of every class but the first, in order. */
  predictors: z.array(linearPartSchema),
  /** Coefficients of every class, summing to zero over classes. Versions of before have those of `predictors` here. */
  coefficients: z.array(coefficientSchema),
  fit: fitRecord.extend({ ridge: z.number() }),
});
export type MultinomialModel = z.infer<typeof multinomialModelSchema>;

/** A coefficient this large, per deviation of a number or for a level, is where separated classes lead: odds of e^20. */
const SEPARATED = 20;

/**
 * Fits a multinomial logistic regression; its ridge falls on the coefficients of every class alike. Steps are
 * preconditioned with the curvature where every row has the classes' shares s as its probabilities, which needs cross products of
 * the columns only, once: (diag(1/s) + 11'/s0) (x) (X'X)^-1. The bound of the curvature that is usual for this (Böhning,
 * "Multinomial logistic regression algorithm", Annals of the Institute of Statistical Mathematics 44, 1992) has the same form, but
 * makes steps half as short as there are classes.
 * Problems: those of {@link prepareDesign}, collinear, separated, not_converged.
 */
export async function fitMultinomial(
  ask: FrameQuestions,
  settings: LogisticSettings,
  options: FitOptions,
): Promise<Result<Fitted<MultinomialModel>>> {
  const summary = await ask.summary();
  const prepared = prepareDesign(summary, {
    categories: options.categories,
    reference: settings.reference,
    missing: settings.missing,
  });
  if (!prepared.ok) return prepared;
  const warnings: Problem[] = [];
  const design = prepared.value;
  const size = design.terms.length;
  const outputs = summary.classes.length - 1;
  const sampled = await ask.drawSample(design, settings.sample_rows, summary.rows);
  const products = await ask.curvature(design, new Float64Array(size), "squared", "sample");
  const penalty = settings.ridge * summary.weight;
  const shares = summary.classes.map((oneClass) => Math.max(oneClass.weight, 0.5) / summary.weight);
  const dependent =
    settings.ridge === 0
      ? await dependentColumns(ask, design, {
          coefficients: new Float64Array(size),
          loss: "squared",
          sample: products.hessian,
          whole: sampled === summary.rows,
        })
      : undefined;
  if (dependent) return failure(dependent);
  const factor = cholesky(
    productsOfAll(products.hessian, summary.weight / products.rows, penalty * shares.length),
    1e-14,
  );
  // What the sample alone lacks is kept apart by the little that is added to every column.
  if (factor.kind === "dependent") return failure(collinear(design, factor.index, factor.combination));
  const passes: Pass[] = [];
  const found = await quasiNewton({
    start: startAt(summary, size, outputs),
    tolerance: settings.tolerance * 10,
    mostPasses: settings.most_passes * 10,
    at: async (point) => addClassPenalty(await ask.classSlope(design, point, "all"), point, size, penalty),
    hopeless: (point) => settings.ridge === 0 && runaways(design, point).length > 0,
    precondition: (gradient) => precondition(factor.lower, gradient, size, shares),
    onPass: async ({ pass, loss, gradient, step }) => {
      const entry: Pass = {
        pass,
        scope: "all",
        loss: loss / summary.weight,
        gradientNorm: gradient.reduce((most, value) => Math.max(most, Math.abs(value)), 0) / summary.weight,
        step,
      };
      // A few hundred passes are drawn as well by a part of them.
      if (passes.length < 100 || pass % 10 === 0) {
        passes.push(entry);
        await options.onPass?.(entry);
      }
    },
  });
  if (!found) return failure(notSettled(design, passes.at(-1)?.pass ?? 0, new Float64Array(size * outputs)));
  // With a penalty there is always a minimum; without one, coefficients that grow without bound mean that there is none.
  const running = settings.ridge === 0 ? runaways(design, found.point) : [];
  if (running.length > 0) return failure(separation(running));
  if (!found.settled && settings.ridge === 0)
    return failure(notSettled(design, passes.at(-1)?.pass ?? 0, found.step));
  if (!found.settled)
    warnings.push(
      warning(
        "not_settled",
        `After ${passes.at(-1)?.pass ?? 0} passes, coefficients were still changing slightly, most for ${listMoving(design, found.step)}.`,
        "Raise most_passes.",
      ),
    );
  const read = (scaled: Float64Array) => readable(design, scaled, undefined, summary, () => Number.NaN);
  const parts = Array.from({ length: outputs }, (_, output) =>
    read(found.point.slice(output * size, (output + 1) * size)),
  );
  const coefficients = centreClasses(found.point, size).flatMap((scaled, code) =>
    read(scaled).coefficients.map((row): CoefficientRow => ({ ...row, class: className(ask.task, code) })),
  );
  return success({
    warnings,
    model: {
      algorithm: "multinomial_regression",
      classes: classesOf(ask.task),
      predictors: parts.map(({ intercept, numbers, categories }) => ({ intercept, numbers, categories })),
      coefficients,
      fit: {
        rows: summary.rows,
        ridge: settings.ridge,
        engine: ask.engine,
        numbersOut: ask.numbersOut(),
        passes,
        sampleRows: sampled,
        meanLoss: found.loss / summary.weight,
        gradientNorm: passes.at(-1)?.gradientNorm,
      },
    },
  });
}

const classesOf = (task: Task): string[] =>
  task.kind === "classes" ? [...task.classes] : ["negative", "positive"];

/** Terms whose coefficients, between any two classes, have grown to where only separated classes lead. */
function runaways(design: Design, differences: Float64Array): readonly string[] {
  const size = design.terms.length;
  const classes = centreClasses(differences, size);
  return design.terms.flatMap((term, index) => {
    if (term.kind === "intercept") return [];
    const values = classes.map((coefficients) => coefficients[index]!);
    const range = Math.max(...values) - Math.min(...values);
    return (term.kind === "level" ? range / design.spreads[index]! : range) > SEPARATED
      ? [termName(term)]
      : [];
  });
}

function productsOfAll(sample: Matrix, scale: number, penalty: number): Matrix {
  return sample.map((row, i) =>
    row.map((value, j) => value * scale + (i === j ? penalty + 1e-9 * sample[i]![i]! * scale : 0)),
  );
}

/** Intercepts at the logarithms of the classes' shares. */
function startAt(summary: FrameSummary, size: number, outputs: number): Float64Array {
  const start = new Float64Array(size * outputs);
  const share = (code: number): number => Math.max(summary.classes[code]!.weight, 0.5);
  for (let output = 0; output < outputs; output += 1)
    start[output * size] = Math.log(share(output + 1) / share(0));
  return start;
}

/** (diag(1/s) + 11'/s0) (x) A^-1, applied to a gradient. */
function precondition(
  lower: Matrix,
  gradient: Float64Array,
  size: number,
  shares: readonly number[],
): Float64Array {
  const solved = shares
    .slice(1)
    .map((_, output) => solve(lower, gradient.subarray(output * size, (output + 1) * size)));
  const total = new Float64Array(size);
  for (const array of solved) for (let index = 0; index < size; index += 1) total[index]! += array[index]!;
  const result = new Float64Array(gradient.length);
  solved.forEach((array, output) =>
    array.forEach((value, index) => {
      result[output * size + index] = value / shares[output + 1]! + total[index]! / shares[0]!;
    }),
  );
  return result;
}
