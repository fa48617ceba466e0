import type { TreeLoss } from "./tree-questions";

/** What decides whether a split is good. */
export interface SplitRules {
  readonly loss: TreeLoss;
  /** Sums per bin. */
  readonly statistics: number;
  readonly leaf_penalty: number;
  readonly least_rows: number;
  readonly least_gain: number;
}

export interface FoundSplit {
  readonly column: number;
  readonly gain: number;
  readonly lastBin?: number;
  readonly codes?: readonly number[];
  readonly missingLeft: boolean;
  readonly left: Float64Array;
  readonly right: Float64Array;
}

export const rowsIn = (sums: Float64Array): number => sums[sums.length - 1]!;

/**
 * How much of the loss a leaf with these sums takes away: G^2 / (H + penalty) / 2 for gradients, sum of squared class weights
 * over their sum for gini. The gain of a split is what its two sides take away beyond what they take together.
 * Sources: Friedman, Hastie and Tibshirani, "Additive logistic regression", Annals of Statistics 28, 2000; Breiman et al., Classification and Regression Trees, 1984, 4.3.
 */
export function purity(sums: Float64Array, rules: SplitRules): number {
  if (rules.loss !== "gini") {
    const [gradient, curvature] = [sums[0]!, sums[1]!];
    const bottom = curvature + rules.leaf_penalty;
    return bottom > 0 ? (gradient * gradient) / bottom / 2 : 0;
  }
  let total = 0;
  let squares = 0;
  for (let index = 0; index < sums.length - 1; index += 1) {
    total += sums[index]!;
    squares += sums[index]! ** 2;
  }
  return total > 0 ? squares / total : 0;
}

function minus(left: Float64Array, right: Float64Array): Float64Array {
  const result = new Float64Array(left.length);
  for (let index = 0; index < result.length; index += 1) result[index] = left[index]! - right[index]!;
  return result;
}

function plus(left: Float64Array, right: Float64Array): Float64Array {
  const result = new Float64Array(left.length);
  for (let index = 0; index < result.length; index += 1) result[index] = left[index]! + right[index]!;
  return result;
}

/** What a leaf with a gradient and a curvature takes away: {@link purity} without the array. */
const taken = (gradient: number, curvature: number, penalty: number): number =>
  curvature + penalty > 0 ? (gradient * gradient) / (curvature + penalty) / 2 : 0;

interface Cut {
  readonly gain: number;
  readonly lastBin: number;
  readonly missingLeft: boolean;
}

/** Looks through the cuts of a number column by gradients: the innermost loop of boosting, so without an array per bin. */
function bestCut(
  sums: Float64Array,
  from: number,
  to: number,
  whole: Float64Array,
  rules: SplitRules,
): Cut | undefined {
  const { leaf_penalty: penalty, least_rows: least } = rules;
  const [allGradient, allCurvature, allRows] = [whole[0]!, whole[1]!, whole[2]!];
  const [gapGradient, gapCurvature, gapRows] = [sums[from]!, sums[from + 1]!, sums[from + 2]!];
  const all = taken(allGradient, allCurvature, penalty);
  let [gradient, curvature, rows] = [0, 0, 0];
  let [bestGain, lastBin, missingLeft] = [Math.max(rules.least_gain, 0), -1, false];
  for (let at = from + 3; at < to; at += 3) {
    if (sums[at + 2] === 0) continue;
    gradient += sums[at]!;
    curvature += sums[at + 1]!;
    rows += sums[at + 2]!;
    if (rows >= least && allRows - rows >= least) {
      const gain =
        taken(gradient, curvature, penalty) +
        taken(allGradient - gradient, allCurvature - curvature, penalty) -
        all;
      if (gain > bestGain) [bestGain, lastBin, missingLeft] = [gain, (at - from) / 3, false];
    }
    if (gapRows > 0 && rows + gapRows >= least && allRows - rows - gapRows >= least) {
      const gain =
        taken(gradient + gapGradient, curvature + gapCurvature, penalty) +
        taken(allGradient - gradient - gapGradient, allCurvature - curvature - gapCurvature, penalty) -
        all;
      if (gain > bestGain) [bestGain, lastBin, missingLeft] = [gain, (at - from) / 3, true];
    }
  }
  return lastBin < 0 ? undefined : { gain: bestGain, lastBin, missingLeft };
}

/** The same for the classes of gini. */
function bestClassCut(sums: Float64Array, whole: Float64Array, rules: SplitRules): Cut | undefined {
  const { statistics: size } = rules;
  const missing = sums.slice(0, size);
  const all = purity(whole, rules);
  let left: Float64Array = new Float64Array(size);
  let best: Cut | undefined;
  const consider = (lastBin: number, onLeft: Float64Array, missingLeft: boolean): void => {
    const onRight = minus(whole, onLeft);
    if (rowsIn(onLeft) < rules.least_rows || rowsIn(onRight) < rules.least_rows) return;
    const gain = purity(onLeft, rules) + purity(onRight, rules) - all;
    if (gain > (best?.gain ?? rules.least_gain) && gain > 0) best = { gain, lastBin, missingLeft };
  };
  for (let bin = 1; bin < sums.length / size; bin += 1) {
    const own = sums.subarray(bin * size, (bin + 1) * size);
    if (rowsIn(own) === 0) continue;
    left = plus(left, own);
    consider(bin, left, false);
    if (rowsIn(missing) > 0) consider(bin, plus(left, missing), true);
  }
  return best;
}

/** Best split of one number column: between which bins, and where missing values go; only when it gains more than `above`. */
export function bestNumberSplit(
  sums: Float64Array,
  { column, from, to }: { readonly column: number; readonly from: number; readonly to: number },
  whole: Float64Array,
  rules: SplitRules,
  above = 0,
): FoundSplit | undefined {
  const { statistics: size } = rules;
  const best =
    rules.loss === "gini"
      ? bestClassCut(sums.subarray(from, to), whole, rules)
      : bestCut(sums, from, to, whole, rules);
  if (!best || best.gain <= above) return undefined;
  const left = new Float64Array(size);
  for (let at = best.missingLeft ? from : from + size; at < from + (best.lastBin + 1) * size; at += size)
    for (let index = 0; index < size; index += 1) left[index]! += sums[at + index]!;
  const right = minus(whole, left);
  // Without gaps a missing value goes where most rows go.
  const missingLeft = sums[from + size - 1]! > 0 ? best.missingLeft : rowsIn(left) >= rowsIn(right);
  return { column, ...best, missingLeft, left, right };
}

/** Orders in which levels are looked through: by mean gradient, or by the share of each class. */
function levelOrders(
  sums: Float64Array,
  present: readonly number[],
  rules: SplitRules,
): readonly (readonly number[])[] {
  const { statistics: size } = rules;
  const at = (code: number, index: number): number => sums[code * size + index]!;
  const by = (measure: (code: number) => number): readonly number[] => {
    const values = new Map(present.map((code) => [code, measure(code)]));
    return [...present].sort((left, right) => values.get(left)! - values.get(right)! || left - right);
  };
  if (rules.loss !== "gini") return [by((code) => at(code, 0) / (at(code, 1) + rules.leaf_penalty || 1))];
  const weight = (code: number): number =>
    Array.from({ length: size - 1 }, (_, index) => at(code, index)).reduce((sum, value) => sum + value, 0);
  return Array.from({ length: Math.min(size - 1, MOST_ORDERS) }, (_, index) =>
    by((code) => at(code, index) / (weight(code) || 1)),
  );
}

/** With very many classes only the first are used to put levels in order. */
const MOST_ORDERS = 12;

/**
 * Best split of a category into two groups of levels. For gradients the best grouping lies in the order of the levels' mean
 * gradients (Fisher, "On grouping for maximum homogeneity", JASA 53, 1958); for several classes the order of each class's
 * share is tried.
 */
export function bestCategorySplit(
  column: number,
  sums: Float64Array,
  whole: Float64Array,
  rules: SplitRules,
): FoundSplit | undefined {
  const { statistics: size } = rules;
  const levels = sums.length / size - 1;
  const codes = Array.from({ length: levels }, (_, index) => index + 1);
  const present = codes.filter((code) => sums[(code + 1) * size - 1]! > 0);
  const all = purity(whole, rules);
  let best: (FoundSplit & { readonly chosen: readonly number[] }) | undefined;
  for (const order of levelOrders(sums, present, rules)) {
    let left: Float64Array = new Float64Array(size);
    for (let place = 0; place < order.length - 1; place += 1) {
      const code = order[place]!;
      left = plus(left, sums.subarray(code * size, (code + 1) * size));
      const right = minus(whole, left);
      if (rowsIn(left) < rules.least_rows || rowsIn(right) < rules.least_rows) continue;
      const gain = purity(left, rules) + purity(right, rules) - all;
      if (gain > (best?.gain ?? rules.least_gain) && gain > 0)
        best = { column, gain, missingLeft: false, left, right, chosen: order.slice(0, place + 1) };
    }
  }
  if (!best) return undefined;
  const { chosen, ...found } = best;
  // A category that no row here has, and one never seen at all, goes where most rows go.
  const missingLeft = rowsIn(found.left) >= rowsIn(found.right);
  const absent = new Set(codes.filter((code) => !present.includes(code)));
  const picked = new Set(chosen);
  return {
    ...found,
    missingLeft,
    codes: codes.filter((code) => picked.has(code) || (missingLeft && absent.has(code))),
  };
}
