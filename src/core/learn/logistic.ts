import { cholesky, inverse, solve, type Matrix } from "../numeric/cholesky";
import { twoSidedP } from "../numeric/normal";
import { failure, problem, success, warning, type Problem, type Result } from "../problem";
import { nextPoint, type Visit } from "./acceleration";
import { layOut, termName, toOriginal, type Design } from "./design";
import { checkSummary, collinear, divergence, separatedLevels } from "./diagnose";
import type { LogisticModel, CoefficientRow } from "./logistic-model";
import type { FrameQuestions, FrameSummary, Slope } from "./questions";

export interface LogisticSettings {
  /** Penalty: mean loss + ridge / 2 * sum of (coefficient * deviation)^2; the intercept is free. */
  readonly ridge: number;
  readonly tolerance: number;
  readonly most_passes: number;
  readonly sample_rows: number;
  readonly reference: Readonly<Record<string, string>>;
}

/** One pass over rows, as reported while training runs. */
export interface Pass {
  readonly pass: number;
  readonly scope: "all" | "sample";
  /** Mean log loss over the rows of the scope, penalty included. */
  readonly loss: number;
  /** Largest element of the mean gradient, on the solver's scale. */
  readonly gradientNorm: number;
  /** Largest change of a coefficient, on the solver's scale. */
  readonly step: number;
}

export interface FitOptions {
  readonly settings: LogisticSettings;
  readonly categories: readonly { readonly column: string; readonly levels: readonly (string | null)[] }[];
  readonly onPass?: (pass: Pass) => Promise<void> | void;
}

/**
 * Standard errors take one pass of all cross products. Beyond this many products they come from the sample, which
 * knows them to about one part in the root of its rows: a pass of its own would take longer than the training.
 */
const MOST_EXACT_PRODUCTS = 5e7;

/**
 * Fits a logistic regression by asking for sums only.
 *
 * Newton's method on a fixed sample gives a start and a Hessian; passes over all rows then take steps
 * preconditioned with that Hessian until the standardised coefficients are within `tolerance` of the solution
 * (the remaining error is estimated from the contraction between steps). When the sample is all the rows,
 * this is plain Newton. Sources: McCullagh and Nelder, Generalized Linear Models, 2nd ed., section 4.4;
 * for the subsampled Hessian: Roosta-Khorasani and Mahoney, "Sub-sampled Newton methods", Math. Prog. 174, 2019.
 *
 * Problems: one_class, target_missing, separated, collinear, not_converged, feature_missing, not_finite.
 */
export async function fitLogistic(ask: FrameQuestions, options: FitOptions): Promise<Result<{ model: LogisticModel; warnings: readonly Problem[] }>> {
  const { settings } = options;
  const summary = await ask.summary();
  const found = checkSummary(summary);
  if (found.length > 0) return failure(...found);
  const warnings: Problem[] = [];
  const useful = summary.numbers.filter((each) => {
    // A deviation at the size of rounding is a constant, whatever the last digits say.
    const keep = each.missing === 0 && each.deviation > 1e-12 * Math.max(1, Math.abs(each.mean));
    if (!keep) warnings.push(warning("constant_feature", `"${each.column}" has ${each.missing === summary.rows ? "no value" : "one value only"} in the training rows and is left out of the model.`));
    return keep;
  });
  const categories = options.categories.flatMap((category) => {
    const counts = summary.categories.find((each) => each.column === category.column);
    return category.levels.length > 1 && counts ? [{ ...category, rows: counts.rows, positives: counts.positives }] : [];
  });
  if (settings.ridge === 0) {
    const separated = separatedLevels(categories);
    if (separated) return failure(separated);
  }
  const design = layOut(useful, categories, settings.reference);
  const sampled = await ask.drawSample(design, settings.sample_rows, summary.rows);
  const wholeSample = sampled === summary.rows;
  const start = await newtonOnSample(ask, design, summary, settings, sampled, options);
  if (!start.ok) return start;
  const end = wholeSample ? start : await passesOverAll(ask, design, summary, settings, start.value, options);
  if (!end.ok) return end;
  const { coefficients, hessian, passes } = end.value;
  const products = summary.rows * ((design.terms.length * (design.terms.length + 1)) / 2);
  // A level that the sample hardly holds has its error from all rows, whatever it costs.
  const exact = wholeSample || products <= MOST_EXACT_PRODUCTS || rareLevels(design, start.value.hessian).length > 0;
  const information = wholeSample || !exact ? hessian : penalised((await ask.curvature(design, coefficients, "all")).hessian, settings.ridge * summary.rows);
  const factor = cholesky(information);
  // At the start the columns could be told apart; if they no longer can, it is because the weights of all rows have gone to nothing.
  if (factor.kind === "dependent") return failure(divergence(design, coefficients));
  const last = passes.at(-1)!;
  const model: LogisticModel = {
    algorithm: "logistic_regression",
    ...readable(design, coefficients, inverse(factor.lower), summary),
    fit: {
      rows: summary.rows, positives: summary.positives, ridge: settings.ridge, sampleRows: sampled, passes: [...passes],
      meanLoss: last.loss, gradientNorm: last.gradientNorm, errorsFrom: exact ? "all rows" : "sample", numbersOut: ask.numbersOut(),
    },
  };
  return success({ model, warnings });
}

interface Fit {
  readonly coefficients: Float64Array;
  /** Of the penalised loss summed over all training rows. */
  readonly hessian: Matrix;
  readonly passes: readonly Pass[];
}

function penalised(hessian: Matrix, penalty: number): Matrix {
  return hessian.map((row, i) => {
    const copy = Float64Array.from(row);
    if (i > 0) copy[i] = copy[i]! + penalty;
    return copy;
  });
}

const largest = (values: Float64Array): number => values.reduce((most, value) => Math.max(most, Math.abs(value)), 0);

/** Loss and gradient with the penalty added. */
function withPenalty(slope: { readonly loss: number; readonly gradient: Float64Array }, coefficients: Float64Array, penalty: number): { loss: number; gradient: Float64Array } {
  let loss = slope.loss;
  const gradient = slope.gradient.map((value, index) => {
    if (index === 0) return value;
    loss += (penalty / 2) * coefficients[index]! ** 2;
    return value + penalty * coefficients[index]!;
  });
  return { loss, gradient };
}

/** A Newton step on the solver's scale that is this large, and hardly smaller than the one before, leads to no end. */
const ENDLESS_STEP = 0.3;
/** A last step of this size on the sample leaves an error of about its square: less than the sample's own noise. */
const SAMPLE_TOLERANCE = 0.01;
/** Above this many products (rows of the sample times pairs of columns) a curvature is kept for several steps. */
const MANY_PRODUCTS = 5e7;

async function newtonOnSample(ask: FrameQuestions, design: Design, summary: FrameSummary, settings: LogisticSettings, sampled: number, options: FitOptions): Promise<Result<Fit>> {
  const size = design.terms.length;
  const whole = sampled === summary.rows;
  const thrifty = sampled * ((size * (size + 1)) / 2) > MANY_PRODUCTS;
  const scale = summary.rows / sampled;
  // A sample may separate what all rows do not, or lack a rare level; a faint penalty keeps its start finite.
  const penalty = settings.ridge * sampled + (whole ? 0 : 1);
  let coefficients: Float64Array = new Float64Array(size);
  const share = summary.positives / summary.rows;
  coefficients[0] = Math.log(share / (1 - share));
  const passes: Pass[] = [];
  let lastStep: Float64Array = new Float64Array(size);
  let before = Infinity;
  let kept: { readonly hessian: Matrix; readonly lower: Matrix } | undefined;
  for (let pass = 1; pass <= settings.most_passes; pass += 1) {
    const renewed = kept ? undefined : await ask.curvature(design, coefficients, "sample");
    const answer: Slope = renewed ?? (await ask.slope(design, coefficients, "sample"));
    const { loss, gradient } = withPenalty(answer, coefficients, penalty);
    if (pass === 1 && settings.ridge === 0 && renewed) {
      const found = await dependence(ask, design, coefficients, renewed.hessian, whole);
      if (found) return failure(found);
    }
    if (loss > before + 1e-9 * Math.abs(before) && pass > 1 && largest(lastStep) > 1e-6) {
      // The step was too long: go half the way back. Convexity makes this end.
      lastStep = lastStep.map((value) => value / 2);
      coefficients = coefficients.map((value, index) => value + lastStep[index]!);
      kept = undefined;
      continue;
    }
    if (renewed) {
      const hessian = penalised(renewed.hessian, penalty);
      const factor = cholesky(hessian, 1e-14);
      if (factor.kind === "dependent") return failure(divergence(design, lastStep));
      kept = { hessian, lower: factor.lower };
    }
    const step = solve(kept!.lower, gradient);
    const length = largest(step);
    const entry: Pass = { pass, scope: whole ? "all" : "sample", loss: loss / sampled, gradientNorm: largest(gradient) / sampled, step: length };
    passes.push(entry);
    await options.onPass?.(entry);
    coefficients = coefficients.map((value, index) => value - step[index]!);
    // The sample only has to give a start as good as its own noise; all rows decide.
    const enough = whole ? settings.tolerance : SAMPLE_TOLERANCE;
    if (length <= enough) return success({ coefficients, hessian: kept!.hessian.map((row) => row.map((value) => value * scale)), passes });
    if (settings.ridge === 0 && whole && ((answer.loss / sampled < 1e-7) || (pass > 20 && length > ENDLESS_STEP))) return failure(divergence(design, step));
    // A curvature is good as long as every step is at most half the one before.
    if (!thrifty || length > 0.5 * largest(lastStep)) kept = undefined;
    lastStep = step.map((value) => -value);
    before = loss;
  }
  return failure(notConverged(design, lastStep, settings));
}

/** Columns that can not be told apart, seen where every row still weighs the same. What a sample lacks is asked of all rows. */
async function dependence(ask: FrameQuestions, design: Design, coefficients: Float64Array, sample: Matrix, whole: boolean): Promise<Problem | undefined> {
  const first = cholesky(sample);
  if (first.kind === "factor") return undefined;
  const factor = whole ? first : cholesky((await ask.curvature(design, coefficients, "all")).hessian);
  return factor.kind === "dependent" ? collinear(design, factor.index, factor.combination) : undefined;
}

async function passesOverAll(ask: FrameQuestions, design: Design, summary: FrameSummary, settings: LogisticSettings, start: Fit, options: FitOptions): Promise<Result<Fit>> {
  let { coefficients } = start;
  let hessian = withRareLevels(design, start.hessian);
  const passes = [...start.passes];
  const penalty = settings.ridge * summary.rows;
  let previous = Infinity;
  let best = { loss: Infinity, coefficients };
  let slow = 0;
  let fresh = false;
  let newton = Infinity;
  let step: Float64Array = new Float64Array(design.terms.length);
  let visits: Visit[] = [];
  for (let pass = 1; pass <= settings.most_passes; pass += 1) {
    const { loss, gradient } = withPenalty(await ask.slope(design, coefficients, "all"), coefficients, penalty);
    const worse = loss > best.loss + 1e-7 * Math.abs(best.loss);
    if (worse || slow >= 2) {
      // The sample's curvature is not that of all rows (a rare level, a heavy tail): measure it on all rows, at the best place so far.
      coefficients = worse ? best.coefficients : coefficients;
      hessian = penalised((await ask.curvature(design, coefficients, "all")).hessian, penalty);
      slow = 0;
      previous = Infinity;
      fresh = true;
      visits = [];
      if (worse) continue;
    }
    const factor = cholesky(hessian, 1e-13);
    if (factor.kind === "dependent") return failure(divergence(design, coefficients));
    best = { loss, coefficients };
    step = solve(factor.lower, gradient);
    const size = largest(step);
    const entry: Pass = { pass: passes.length + 1, scope: "all", loss: loss / summary.rows, gradientNorm: largest(gradient) / summary.rows, step: size };
    passes.push(entry);
    await options.onPass?.(entry);
    if (fresh) {
      if (settings.ridge === 0 && size > ENDLESS_STEP && size > 0.8 * newton) return failure(divergence(design, step));
      newton = size;
      fresh = false;
    }
    visits.push({ point: coefficients, gradient, move: step.map((value) => -value) });
    coefficients = nextPoint(visits);
    const contraction = Number.isFinite(previous) ? Math.min(size / previous, 1) : 1;
    // What is left after this step shrinks by the same factor again.
    if (size * contraction <= settings.tolerance) return success({ coefficients, hessian, passes });
    slow = contraction > 0.4 && Number.isFinite(previous) ? slow + 1 : 0;
    previous = size;
  }
  return failure(notConverged(design, step, settings));
}

/** Positions of levels that the sample hardly holds. On the solver's scale every column has spread 1, so its curvature is about that of the intercept. */
function rareLevels(design: Design, hessian: Matrix): readonly number[] {
  return design.terms.flatMap((term, index) => (term.kind === "level" && hessian[index]![index]! <= 0.3 * hessian[0]![0]! ? [index] : []));
}

/** A rare level would get far too long a step; too much curvature only shortens it. */
function withRareLevels(design: Design, hessian: Matrix): Matrix {
  const rare = new Set(rareLevels(design, hessian));
  return hessian.map((row, index) => {
    if (!rare.has(index)) return row;
    const copy = Float64Array.from(row);
    copy[index] = hessian[0]![0]!;
    return copy;
  });
}

function notConverged(design: Design, step: Float64Array, settings: LogisticSettings): Problem {
  if (settings.ridge === 0 && largest(step) > 0.1) return divergence(design, step);
  return problem("not_converged", `Training did not settle within ${settings.most_passes} passes.`, "Raise most_passes, or set a small ridge such as 0.001.");
}

/** The model on the original scale, with one row per coefficient for people. */
function readable(design: Design, scaled: Float64Array, covariance: Matrix, summary: FrameSummary): Pick<LogisticModel, "intercept" | "numbers" | "categories" | "coefficients"> {
  const original = toOriginal(design, scaled);
  const rows = design.terms.map((term, index): CoefficientRow => {
    const error = standardError(design, covariance, index);
    const z = original[index]! / error;
    return { term: termName(term), ...(term.kind === "intercept" ? {} : { column: term.column }), estimate: original[index]!, error, z, p: twoSidedP(z), perDeviation: scaled[index]! };
  });
  const categories = design.categories.map((category) => {
    const counts = summary.categories.find((each) => each.column === category.column)?.rows ?? [];
    const levels = category.levels.map((level, index) => {
      const position = category.positions[index + 1]!;
      return { level, rows: counts[index] ?? 0, coefficient: position < 0 ? 0 : original[position]! };
    });
    const total = levels.reduce((sum, level) => sum + level.rows, 0);
    return { column: category.column, levels, unseen: levels.reduce((sum, level) => sum + level.coefficient * (level.rows / total), 0) };
  });
  return {
    intercept: original[0]!,
    numbers: design.numbers.map((column, index) => ({ column, coefficient: original[index + 1]! })),
    categories,
    coefficients: rows,
  };
}

/** Standard error on the original scale: the change of scale is linear, so its rows carry the covariance over. */
function standardError(design: Design, covariance: Matrix, index: number): number {
  if (index > 0) return Math.sqrt(covariance[index]![index]!) / design.spreads[index]!;
  const weights = design.terms.map((_, each) => (each === 0 ? 1 : -design.centres[each]! / design.spreads[each]!));
  let variance = 0;
  for (let i = 0; i < weights.length; i += 1) for (let j = 0; j < weights.length; j += 1) variance += weights[i]! * weights[j]! * covariance[i]![j]!;
  return Math.sqrt(variance);
}

