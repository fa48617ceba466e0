import { cholesky, solve, type Matrix } from "../../numeric/cholesky";
import { failure, success, type Problem, type Result } from "../../problem";
import type { FrameQuestions, LinearLoss, Slope } from "../questions";
import { dependentColumns } from "./dependent-columns";
import type { OnPass, Pass } from "../watch";
import { nextPoint, type Visit } from "./acceleration";
import type { Design } from "./design";
import { collinear, divergence, notSettled } from "./diagnose";

export interface SolverSettings {
  /** Penalty: mean loss + ridge / 2 * sum of (coefficient * deviation)^2; the intercept is free. */
  readonly ridge: number;
  readonly tolerance: number;
  readonly most_passes: number;
  readonly sample_rows: number;
}

export interface SolveOptions {
  readonly settings: SolverSettings;
  readonly loss: LinearLoss;
  /** Training rows. */
  readonly rows: number;
  /** Where to begin, for the intercept. */
  readonly intercept: number;
  readonly onPass?: OnPass | undefined;
}

/**
 * Standard errors take one pass of all cross products. Beyond this many products they come from the sample, which
 * knows them to about one part in the root of its rows: a pass of its own would take longer than the training.
 */
const MOST_EXACT_PRODUCTS = 5e7;

/** What {@link solveLinear} finds. */
export interface Solution {
  /** On the solver's scale. */
  readonly coefficients: Float64Array;
  /** Of the penalised loss summed over all training rows, at the solution. */
  readonly information: Matrix;
  readonly passes: readonly Pass[];
  readonly sampled: number;
  readonly errorsFrom: "all rows" | "sample";
}

/**
 * Minimises a penalised sum of losses of a linear predictor by asking for sums only.
 *
 * Newton's method on a fixed sample gives a start and a Hessian; passes over all rows then take steps
 * preconditioned with that Hessian until the standardised coefficients are within `tolerance` of the solution
 * (the remaining error is estimated from the contraction between steps). When the sample is all the rows,
 * this is plain Newton. Sources: McCullagh and Nelder, Generalized Linear Models, 2nd ed., section 4.4;
 * for the subsampled Hessian: Roosta-Khorasani and Mahoney, "Sub-sampled Newton methods", Math. Prog. 174, 2019.
 *
 * Problems: separated, collinear, not_converged.
 */
export async function solveLinear(
  ask: FrameQuestions,
  design: Design,
  options: SolveOptions,
): Promise<Result<Solution>> {
  const { settings, loss, rows } = options;
  const sampled = await ask.drawSample(design, settings.sample_rows, rows);
  const whole = sampled === rows;
  const start = await newtonOnSample(ask, design, options, whole);
  if (!start.ok) return start;
  const end = whole ? start : await passesOverAll(ask, design, options, start.value);
  if (!end.ok) return end;
  const { coefficients, hessian, passes, weight } = end.value;
  const products = rows * ((design.terms.length * (design.terms.length + 1)) / 2);
  // A level that the sample hardly holds has its error from all rows, whatever it costs.
  const exact =
    whole || products <= MOST_EXACT_PRODUCTS || rareLevels(design, start.value.hessian).length > 0;
  const information =
    whole || !exact
      ? hessian
      : penalised((await ask.curvature(design, coefficients, loss, "all")).hessian, settings.ridge * weight);
  return success({ coefficients, information, passes, sampled, errorsFrom: exact ? "all rows" : "sample" });
}

interface Fit {
  readonly coefficients: Float64Array;
  /** Of the penalised loss summed over all training rows. */
  readonly hessian: Matrix;
  readonly passes: readonly Pass[];
  /** Sum of the weights of the rows it was taken over. */
  readonly weight: number;
}

function penalised(hessian: Matrix, penalty: number): Matrix {
  return hessian.map((row, i) => {
    const copy = Float64Array.from(row);
    if (i > 0) copy[i] = copy[i]! + penalty;
    return copy;
  });
}

const largest = (values: Float64Array): number =>
  values.reduce((most, value) => Math.max(most, Math.abs(value)), 0);

/** Loss and gradient with the penalty added. */
function withPenalty(
  slope: { readonly loss: number; readonly gradient: Float64Array },
  coefficients: Float64Array,
  penalty: number,
): { loss: number; gradient: Float64Array } {
  let loss = slope.loss;
  const gradient = slope.gradient.map((value, index) => {
    if (index === 0) return value;
    loss += (penalty / 2) * coefficients[index]! ** 2;
    return value + penalty * coefficients[index]!;
  });
  return { loss, gradient };
}

/** After so many passes steps are short, unless there is no end; before, nothing is said of where they lead. */
const ENOUGH_PASSES = 20;
/** A Newton step on the solver's scale that is this large, and hardly smaller than the one before, leads to no end. */
const ENDLESS_STEP = 0.3;
/** A last step of this size on the sample leaves an error of about its square: less than the sample's own noise. */
const SAMPLE_TOLERANCE = 0.01;
/** Above this many products (rows of the sample times pairs of columns) a curvature is kept for several steps. */
const MANY_PRODUCTS = 5e7;

async function newtonOnSample(
  ask: FrameQuestions,
  design: Design,
  options: SolveOptions,
  whole: boolean,
): Promise<Result<Fit>> {
  const { settings, loss: kind } = options;
  const size = design.terms.length;
  const thrifty =
    kind === "squared" ||
    Math.min(options.rows, settings.sample_rows) * ((size * (size + 1)) / 2) > MANY_PRODUCTS;
  let coefficients: Float64Array = new Float64Array(size);
  coefficients[0] = options.intercept;
  const passes: Pass[] = [];
  let lastStep: Float64Array = new Float64Array(size);
  let before = Infinity;
  let kept: { readonly hessian: Matrix; readonly lower: Matrix } | undefined;
  for (let pass = 1; pass <= settings.most_passes; pass += 1) {
    const renewed = kept ? undefined : await ask.curvature(design, coefficients, kind, "sample");
    const answer: Slope = renewed ?? (await ask.slope(design, coefficients, kind, "sample"));
    // A sample may separate what all rows do not, or lack a rare level; a faint penalty keeps its start finite.
    const penalty = settings.ridge * answer.rows + (whole ? 0 : 1);
    const { loss, gradient } = withPenalty(answer, coefficients, penalty);
    if (pass === 1 && settings.ridge === 0 && renewed) {
      const found = await dependentColumns(ask, design, {
        coefficients,
        loss: kind,
        sample: renewed.hessian,
        whole,
      });
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
      if (factor.kind === "dependent")
        return failure(
          kind === "squared"
            ? collinear(design, factor.index, factor.combination)
            : divergence(design, lastStep),
        );
      kept = { hessian, lower: factor.lower };
    }
    const step = solve(kept!.lower, gradient);
    const length = largest(step);
    const entry: Pass = {
      pass,
      scope: whole ? "all" : "sample",
      loss: loss / answer.rows,
      gradientNorm: largest(gradient) / answer.rows,
      step: length,
    };
    passes.push(entry);
    await options.onPass?.(entry);
    coefficients = coefficients.map((value, index) => value - step[index]!);
    // The sample only has to give a start as good as its own noise; all rows decide.
    const enough = whole ? settings.tolerance : SAMPLE_TOLERANCE;
    if (length <= enough)
      return success({ coefficients, hessian: kept!.hessian, passes, weight: answer.rows });
    if (
      kind === "logistic" &&
      settings.ridge === 0 &&
      whole &&
      (answer.loss / answer.rows < 1e-7 || (pass > ENOUGH_PASSES && length > ENDLESS_STEP))
    )
      return failure(divergence(design, step));
    // A curvature is good as long as every step is at most half the one before.
    if (!thrifty || (kind !== "squared" && length > 0.5 * largest(lastStep))) kept = undefined;
    lastStep = step.map((value) => -value);
    before = loss;
  }
  return failure(notConverged(design, lastStep, options));
}

async function passesOverAll(
  ask: FrameQuestions,
  design: Design,
  options: SolveOptions,
  start: Fit,
): Promise<Result<Fit>> {
  const { settings, loss: kind } = options;
  let { coefficients } = start;
  let hessian: Matrix | undefined;
  const passes = [...start.passes];
  let previous = Infinity;
  let best = { loss: Infinity, coefficients };
  let slow = 0;
  let fresh = false;
  let newton = Infinity;
  let step: Float64Array = new Float64Array(design.terms.length);
  let visits: Visit[] = [];
  for (let pass = 1; pass <= settings.most_passes; pass += 1) {
    const answer = await ask.slope(design, coefficients, kind, "all");
    const weight = answer.rows;
    const penalty = settings.ridge * weight;
    const { loss, gradient } = withPenalty(answer, coefficients, penalty);
    // The sample's curvature, raised to the weight of all rows.
    hessian ??= withRareLevels(
      design,
      start.hessian.map((row) => row.map((value) => (value * weight) / start.weight)),
    );
    const worse = loss > best.loss + 1e-7 * Math.abs(best.loss) + 1e-13 * weight;
    if (worse || slow >= 2) {
      // The sample's curvature is not that of all rows (a rare level, a heavy tail): measure it on all rows, at the best place so far.
      coefficients = worse ? best.coefficients : coefficients;
      hessian = penalised((await ask.curvature(design, coefficients, kind, "all")).hessian, penalty);
      slow = 0;
      previous = Infinity;
      fresh = true;
      visits = [];
      if (worse) continue;
    }
    const factor = cholesky(hessian, 1e-13);
    if (factor.kind === "dependent")
      return failure(
        kind === "squared"
          ? collinear(design, factor.index, factor.combination)
          : divergence(design, coefficients),
      );
    best = { loss, coefficients };
    step = solve(factor.lower, gradient);
    const size = largest(step);
    const entry: Pass = {
      pass: passes.length + 1,
      scope: "all",
      loss: loss / weight,
      gradientNorm: largest(gradient) / weight,
      step: size,
    };
    passes.push(entry);
    await options.onPass?.(entry);
    if (fresh) {
      if (kind !== "squared" && settings.ridge === 0 && size > ENDLESS_STEP && size > 0.8 * newton)
        return failure(divergence(design, step));
      newton = size;
      fresh = false;
    }
    visits.push({ point: coefficients, gradient, move: step.map((value) => -value) });
    coefficients = nextPoint(visits);
    const contraction = Number.isFinite(previous) ? Math.min(size / previous, 1) : 1;
    // What is left after this step shrinks by the same factor again.
    if (size * contraction <= settings.tolerance) return success({ coefficients, hessian, passes, weight });
    slow = contraction > 0.4 && Number.isFinite(previous) ? slow + 1 : 0;
    previous = size;
  }
  return failure(notConverged(design, step, options));
}

/** Positions of levels that the sample hardly holds. On the solver's scale every column has spread 1, so its curvature is about that of the intercept. */
function rareLevels(design: Design, hessian: Matrix): readonly number[] {
  return design.terms.flatMap((term, index) =>
    term.kind === "level" && hessian[index]![index]! <= 0.3 * hessian[0]![0]! ? [index] : [],
  );
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

function notConverged(design: Design, step: Float64Array, { settings, loss }: SolveOptions): Problem {
  const long = settings.most_passes > ENOUGH_PASSES && largest(step) > 0.1;
  if (loss !== "squared" && settings.ridge === 0 && long) return divergence(design, step);
  return notSettled(design, settings.most_passes, step);
}
