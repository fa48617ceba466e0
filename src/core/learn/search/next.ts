import { cholesky, forwardSolve, solve, type Matrix } from "../../numeric/cholesky";
import { complementaryError } from "../../numeric/normal";
import { uniform } from "../../numeric/random";
import type { SearchFile } from "../../pipeline/schema";
import { gridPoint, randomPoint } from "./space";

/** A point that was tried, and its score; the lower the better. */
export interface Tried {
  readonly point: readonly number[];
  readonly score: number;
}

/** Trials at random before a model of the scores says where to look. */
const FIRST = 6;
/** Points among which the most promising is taken. */
const LOOKED_AT = 600;
/** Spread of the kernel in the unit cube, and noise of scores as a share of their variance. */
const [LENGTH, NOISE] = [0.3, 0.02];

/**
 * The point that a trial should look at; undefined when there is none left. Depends on the search and the trials before it alone,
 * so a search that is taken up again goes on where it was.
 */
export function nextPoint(
  search: SearchFile,
  trial: number,
  tried: readonly Tried[],
): readonly number[] | undefined {
  if (search.how === "grid") return gridPoint(search, trial);
  const known = tried.filter((trial) => Number.isFinite(trial.score));
  if (search.how === "random" || trial < FIRST || known.length < 3) return randomPoint(search, trial);
  return mostPromising(search, trial, known);
}

const square = (left: readonly number[], right: readonly number[]): number =>
  left.reduce((sum, value, index) => sum + (value - right[index]!) ** 2, 0);

/** Matérn covariance with smoothness 5/2. */
function covariance(left: readonly number[], right: readonly number[]): number {
  const distance = (Math.sqrt(5) * Math.sqrt(square(left, right))) / LENGTH;
  return (1 + distance + (distance * distance) / 3) * Math.exp(-distance);
}

/**
 * Expected improvement under a Gaussian process. Sources: Rasmussen and Williams, Gaussian Processes for Machine Learning, 2006,
 * algorithm 2.1; Jones, Schonlau and Welch, "Efficient global optimization of expensive black-box functions", 1998.
 */
function mostPromising(search: SearchFile, trial: number, tried: readonly Tried[]): readonly number[] {
  const mean = tried.reduce((sum, trial) => sum + trial.score, 0) / tried.length;
  const deviation =
    Math.sqrt(tried.reduce((sum, trial) => sum + (trial.score - mean) ** 2, 0) / tried.length) || 1;
  const scores = tried.map((trial) => (trial.score - mean) / deviation);
  const matrix: Matrix = tried.map((left, i) =>
    Float64Array.from(tried, (right, j) => covariance(left.point, right.point) + (i === j ? NOISE : 0)),
  );
  const factor = cholesky(matrix);
  if (factor.kind === "dependent") return randomPoint(search, trial);
  const weights = solve(factor.lower, scores);
  const best = Math.min(...scores);
  let chosen = randomPoint(search, trial);
  let most = -Infinity;
  for (let index = 0; index < LOOKED_AT; index += 1) {
    const point = search.try.map((_, dimension) =>
      uniform(index * 31 + dimension, search.seed + 1009 * (trial + 1)),
    );
    const between = Float64Array.from(tried, (trial) => covariance(trial.point, point));
    const expected = between.reduce((sum, value, amount) => sum + value * weights[amount]!, 0);
    const part = forwardSolve(factor.lower, between);
    const spread = Math.sqrt(Math.max(1e-12, 1 - part.reduce((sum, value) => sum + value * value, 0)));
    const z = (best - expected) / spread;
    const improvement =
      spread *
      (z * (1 - 0.5 * complementaryError(z / Math.SQRT2)) + Math.exp((-z * z) / 2) / Math.sqrt(2 * Math.PI));
    if (improvement > most) [most, chosen] = [improvement, point];
  }
  return chosen;
}
