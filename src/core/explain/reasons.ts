import { roundSignificant } from "../format/numbers";
import { evidence } from "../learn/bayes/naive-bayes";
import { boostedScores, predict, type Model } from "../learn/model";
import { nearest } from "../learn/neighbours/neighbours";
import { networkSums } from "../learn/network/network";
import type { FeatureRow } from "../learn/task";
import type { Tree } from "../learn/trees/tree";
import { linearReasons, treeReasons, type Reasons } from "./shapley";

/** What explanations are measured against: the usual value of each feature. */
export interface Background {
  readonly means: Readonly<Record<string, number>>;
  /** The most frequent category of each category column. */
  readonly usual: Readonly<Record<string, string | null>>;
}

/** In what reasons add up. */
export type ReasonScale = "log odds" | "the prediction" | "log of the class's share";

/** In what the reasons of a model add up, by how its sums become predictions. */
const SCALE_OF_LINK = {
  identity: "the prediction",
  logistic: "log odds",
  softmax: "log of the class's share",
} as const satisfies Readonly<Record<string, ReasonScale>>;

export interface ExplainedRow extends Reasons {
  readonly scale: ReasonScale;
  /** How the parts were found. */
  readonly exact: boolean;
}

function ofTrees(
  trees: readonly { readonly tree: Tree; readonly output: number }[],
  row: FeatureRow,
  start: number,
  factor: number,
): Reasons {
  const sums = new Map<string, number>();
  let base = start;
  for (const { tree, output } of trees)
    base +=
      factor *
      treeReasons(tree, output, row, (column, value) =>
        sums.set(column, (sums.get(column) ?? 0) + factor * value),
      );
  return { base, parts: [...sums].map(([column, value]) => ({ column, value })) };
}

/**
 * Why a row was predicted as it was: parts by column that add up, with the base, to the predictor.
 * Exact Shapley values for linear and tree models, and for naive Bayes what each column says by itself; for networks and
 * neighbours, what changes as the columns are put in one after the other from the usual row to this one, in two opposite orders.
 * @param output which class is explained, for models of several classes; else 0
 */
export function reasonsFor(
  model: Model,
  row: FeatureRow,
  output: number,
  background: Background,
): ExplainedRow {
  switch (model.algorithm) {
    case "base_rate":
      return { base: model.outputs[output]!, parts: [], scale: "the prediction", exact: true };
    case "linear_regression":
      return { ...linearReasons(model, row, background.means), scale: "the prediction", exact: true };
    case "logistic_regression":
      return { ...linearReasons(model, row, background.means), scale: "log odds", exact: true };
    case "support_vector": {
      const { slope, offset } = model.calibration;
      const found = linearReasons(model, row, background.means);
      return {
        base: slope * found.base + offset,
        parts: found.parts.map((part) => ({ ...part, value: slope * part.value })),
        scale: "log odds",
        exact: true,
      };
    }
    case "multinomial_regression":
      return {
        ...centredReasons(
          model.predictors.map((predictor) => linearReasons(predictor, row, background.means)),
          output,
        ),
        scale: "log of the class's share",
        exact: true,
      };
    case "naive_bayes": {
      const parts = evidence(model, row);
      if (!model.binary)
        return {
          base: model.priors[output]!,
          parts: parts.map((part) => ({ column: part.column, value: part.logs[output]! })),
          scale: "log of the class's share",
          exact: true,
        };
      return {
        base: model.priors[1]! - model.priors[0]!,
        parts: parts.map((part) => ({ column: part.column, value: part.logs[1]! - part.logs[0]! })),
        scale: "log odds",
        exact: true,
      };
    }
    case "decision_tree":
      return { ...ofTrees([{ tree: model.tree, output }], row, 0, 1), scale: "the prediction", exact: true };
    case "random_forest":
      return {
        ...ofTrees(
          model.trees.map((tree) => ({ tree, output })),
          row,
          0,
          1 / model.trees.length,
        ),
        scale: "the prediction",
        exact: true,
      };
    case "boosted_trees": {
      return {
        ...ofTrees(
          model.rounds.map((trees) => ({ tree: trees[output]!, output: 0 })),
          row,
          model.start[output]!,
          1,
        ),
        scale: SCALE_OF_LINK[model.link],
        exact: true,
      };
    }
    case "nearest_neighbours":
    case "neural_network": {
      const columns = [
        ...model.numbers.map((number) => number.column),
        ...model.categories.map((category) => category.column),
      ];
      const value = (at: FeatureRow): number => predictorOf(model, at, output);
      const scale = model.algorithm === "nearest_neighbours" ? "the prediction" : SCALE_OF_LINK[model.link];
      return { ...byReplacing(columns, row, background, value), scale, exact: false };
    }
  }
}

/**
 * Reasons of one class out of those of all but the first, whose predictor is zero: what each column says for the class
 * beyond what it says for the classes in the mean. So every class has reasons, whichever comes first.
 */
function centredReasons(others: readonly Reasons[], output: number): Reasons {
  const classes = others.length + 1;
  const own = output === 0 ? undefined : others[output - 1];
  const centre = (value: (reasons: Reasons) => number): number =>
    (own ? value(own) : 0) - others.reduce((sum, reasons) => sum + value(reasons), 0) / classes;
  return {
    base: centre((reasons) => reasons.base),
    parts: (others[0]?.parts ?? []).map(({ column }, place) => ({
      column,
      value: centre((reasons) => reasons.parts[place]!.value),
    })),
  };
}

/** A reason as it is delivered beside a prediction. */
export interface DeliveredReason {
  readonly column: string;
  readonly value: string | number | null;
  /** Its part of the log odds, of the prediction, or of the logarithm of the class's share, as the learner has it. */
  readonly part: number;
}

/** The weightiest reasons of a row's prediction, largest first. Of several classes the most probable one is explained. */
export function weightiestReasons(
  model: Model,
  row: FeatureRow,
  prediction: ArrayLike<number>,
  background: Background,
  most: number,
): readonly DeliveredReason[] {
  let output = 0;
  for (let index = 1; index < prediction.length; index += 1)
    if (prediction[index]! > prediction[output]!) output = index;
  return reasonsFor(model, row, output, background)
    .parts.filter((part) => part.value !== 0)
    .sort((left, right) => Math.abs(right.value) - Math.abs(left.value))
    .slice(0, most)
    .map(({ column, value }) => ({ column, value: row[column] ?? null, part: roundSignificant(value, 6) }));
}

/** The predictor that reasons add up to. */
export function predictorOf(model: Model, row: FeatureRow, output: number): number {
  if (model.algorithm === "neural_network")
    return networkSums(model, row)[output]! * model.target.spread + model.target.centre;
  if (model.algorithm === "boosted_trees") return boostedScores(model, row)[output]!;
  return predict(model, row)[output]!;
}

/** Puts the row's values in one after the other, forwards and backwards, and takes the mean of what each changes. */
function byReplacing(
  columns: readonly string[],
  row: FeatureRow,
  { means, usual }: Background,
  value: (row: FeatureRow) => number,
): Reasons {
  const start: Record<string, number | string | null> = {};
  for (const name of columns) start[name] = means[name] ?? usual[name] ?? null;
  const base = value(start);
  const sums = new Map(columns.map((name) => [name, 0]));
  for (const order of [columns, [...columns].reverse()]) {
    const current = { ...start };
    let before = base;
    for (const name of order) {
      current[name] = row[name] ?? null;
      const after = value(current);
      sums.set(name, sums.get(name)! + (after - before) / 2);
      before = after;
    }
  }
  return { base, parts: [...sums].map(([column, value]) => ({ column, value: value })) };
}

/** The training rows that decided a prediction by nearest neighbours, nearest first, in original units. */
export function neighboursOf(
  model: Extract<Model, { algorithm: "nearest_neighbours" }>,
  row: FeatureRow,
): readonly { readonly distance: number; readonly answer: number; readonly values: FeatureRow }[] {
  return nearest(model, row).map(({ place, distance }) => ({
    distance,
    answer: model.answers[place]!,
    values: Object.fromEntries<number | string | null>([
      ...model.numbers.map((number): [string, number] => [
        number.column,
        number.values[place]! * number.spread + number.centre,
      ]),
      ...model.categories.map((category): [string, string | null] => [
        category.column,
        category.values[place]!,
      ]),
    ]),
  }));
}
