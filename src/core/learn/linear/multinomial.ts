import { z } from "zod";
import { cholesky, solve, type Matrix } from "../../numeric/cholesky";
import { failure, problem, success, warning, type Result } from "../../problem";
import type { Fitted, FitOptions } from "../fitting";
import { fitRecord } from "../fit-record";
import type { FrameQuestions, FrameSummary } from "../questions";
import type { LogisticSettings } from "../settings";
import { className, type Task } from "../task";
import type { Pass } from "../watch";
import { termName, type Design } from "./design";
import { linearPartSchema } from "./linear-part";
import { prepareDesign } from "./prepare";
import { quasiNewton } from "./quasi-newton";
import { coefficientSchema, readable, type CoefficientRow } from "./readable";

/** A fitted multinomial logistic regression as data. The predictor of the first class is 0. */
export const multinomialModelSchema = z.object({
  algorithm: z.literal("multinomial_regression"),
  classes: z.array(z.string()),
  /** Predictors of every class but the first, in order. */
  predictors: z.array(linearPartSchema),
  coefficients: z.array(coefficientSchema),
  fit: fitRecord.extend({ ridge: z.number() }),
});
export type MultinomialModel = z.infer<typeof multinomialModelSchema>;

/** A coefficient per deviation beyond this is where separated classes lead. */
const SEPARATED = 20;

/** How the penalty is measured: per standard deviation, or per unit of the column, intercepts included. */
export type PenaltyScale = "deviation" | "unit";

/**
 * Fits a multinomial logistic regression with the first class as the one that others are measured against. Steps are
 * preconditioned with the curvature where every row has the classes' shares s as its probabilities, which needs cross products of
 * the columns only, once: (diag(1/s) + 11'/s0) (x) (X'X)^-1. The bound of the curvature that is usual for this (Böhning,
 * "Multinomial logistic regression algorithm", Annals of the Institute of Statistical Mathematics 44, 1992) has the same form, but
 * makes steps half as short as there are classes.
 */
export async function fitMultinomial(
  ask: FrameQuestions,
  settings: LogisticSettings,
  options: FitOptions & { readonly penalty?: PenaltyScale },
): Promise<Result<Fitted<MultinomialModel>>> {
  const summary = await ask.summary();
  const prepared = prepareDesign(summary, {
    categories: options.categories,
    reference: settings.reference,
    missing: settings.missing,
  });
  if (!prepared.ok) return prepared;
  const byUnit = options.penalty === "unit";
  const warnings = [...prepared.value.warnings];
  const design = byUnit ? unscaled(prepared.value.design) : prepared.value.design;
  const size = design.terms.length;
  const outputs = summary.classes.length - 1;
  const sampled = await ask.drawSample(design, settings.sample_rows, summary.rows);
  const products = await ask.curvature(design, new Float64Array(size), "squared", "sample");
  const penalty = settings.ridge * summary.weight;
  const shares = summary.classes.map((each) => Math.max(each.weight, 0.5) / summary.weight);
  const factor = cholesky(
    productsOfAll(products.hessian, summary.weight / products.rows, penalty * shares.length),
    1e-14,
  );
  if (factor.kind === "dependent")
    return failure(
      problem(
        "collinear",
        `"${termName(design.terms[factor.index]!)}" can be computed from other columns, so coefficients cannot be told apart.`,
        "Exclude it, or set a small ridge such as 0.001.",
      ),
    );
  const passes: Pass[] = [];
  const penalised = (position: number): boolean => byUnit || position % size !== 0;
  const found = await quasiNewton({
    start: startAt(summary, size, outputs),
    tolerance: settings.tolerance * 10,
    mostPasses: settings.most_passes * 10,
    at: async (point) => {
      const answer = await ask.classSlope(design, point, "all");
      let { loss } = answer;
      const gradient = answer.gradient.map((value, index) => {
        if (!penalised(index)) return value;
        loss += (penalty / 2) * point[index]! ** 2;
        return value + penalty * point[index]!;
      });
      return { loss, gradient };
    },
    precondition: (gradient) => precondition(factor.lower, gradient, size, shares),
    onPass: async ({ pass, loss, gradient, step }) => {
      const entry: Pass = {
        pass,
        scope: "all",
        loss: loss / summary.weight,
        gradientNorm: gradient.reduce((most, each) => Math.max(most, Math.abs(each)), 0) / summary.weight,
        step,
      };
      // A few hundred passes are drawn as well by a part of them.
      if (passes.length < 100 || pass % 10 === 0) {
        passes.push(entry);
        await options.onPass?.(entry);
      }
    },
  });
  // With a penalty there is always a minimum; without one, passes that lead nowhere mean that there is none.
  if (!found || (!found.settled && settings.ridge === 0))
    return failure(
      problem(
        "not_converged",
        "Training did not settle: some coefficients grow without bound, as they do when the classes are separated.",
        "Set a small ridge such as 0.001, or look whether a column gives the answer away.",
      ),
    );
  if (!found.settled)
    warnings.push(
      warning(
        "not_settled",
        `After ${passes.at(-1)?.pass ?? 0} passes coefficients still moved a little.`,
        "Raise most_passes, or the ridge.",
      ),
    );
  const largest = found.point.reduce(
    (most, each, index) => (Math.abs(each) > Math.abs(found.point[most]!) ? index : most),
    0,
  );
  if (settings.ridge === 0 && !byUnit && Math.abs(found.point[largest]!) > SEPARATED) {
    warnings.push(
      warning(
        "separated",
        `"${termName(design.terms[largest % size]!)}" tells some classes apart almost without fail; its coefficients are large and uncertain.`,
        "Look whether it gives the answer away; if it is honest, set a small ridge such as 0.001.",
      ),
    );
  }
  const parts = Array.from({ length: outputs }, (_, output) =>
    readable(
      design,
      found.point.slice(output * size, (output + 1) * size),
      undefined,
      summary,
      () => Number.NaN,
    ),
  );
  const coefficients = parts.flatMap((part, output) =>
    part.coefficients.map((row): CoefficientRow => ({ ...row, class: className(ask.task, output + 1) })),
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

/** The same columns on their own scale. */
function unscaled(design: Design): Design {
  return {
    ...design,
    centres: new Float64Array(design.terms.length),
    spreads: new Float64Array(design.terms.length).fill(1),
  };
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
  for (const each of solved) for (let index = 0; index < size; index += 1) total[index]! += each[index]!;
  const result = new Float64Array(gradient.length);
  solved.forEach((each, output) =>
    each.forEach((value, index) => {
      result[output * size + index] = value / shares[output + 1]! + total[index]! / shares[0]!;
    }),
  );
  return result;
}
