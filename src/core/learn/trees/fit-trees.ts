import { formatNumber } from "../../format/numbers";
import { shuffled, uniform } from "../../numeric/random";
import { failure, problem, success, type Problem, type Result } from "../../problem";
import { checkTarget } from "../linear/diagnose";
import type { Fitted, FitOptions } from "../fitting";
import type { FrameQuestions, FrameSummary } from "../questions";
import type { ForestSettings } from "../random-forest/facts";
import type { TreeSettings } from "../decision-tree/facts";
import { classCount, type Task } from "../task";
import type { Pass } from "../watch";
import { growTree, toTree, type GrowRules, type GrownNode, type TreeColumns } from "./grow";
import { statisticsOf, type RowSample, type TreeLoss } from "./tree-questions";
import type { Tree } from "./tree";
import type { DecisionTreeModel, ForestModel } from "./tree-models";

/** What every learner of trees needs first: that there is something to learn, and where columns are cut. */
export async function beginTrees(
  ask: FrameQuestions,
  options: FitOptions,
  bins: number,
): Promise<Result<{ readonly summary: FrameSummary; readonly columns: TreeColumns }>> {
  const summary = await ask.summary();
  const found: readonly Problem[] = checkTarget(summary);
  if (found.length > 0) return failure(...found);
  if (ask.task.kind === "number" && !(summary.target.largest > summary.target.smallest))
    return failure(
      problem(
        "constant_target",
        `All ${formatNumber(summary.rows)} training rows have the same target, ${formatNumber(summary.target.mean)}.`,
        "Check the target column.",
      ),
    );
  return success({
    summary,
    columns: {
      numbers: summary.numbers.map((number) => number.column),
      categories: options.categories,
      cuts: await ask.trees.cuts(bins),
    },
  });
}

/** Total gain by column, largest first; columns that are never split on are left out. */
export function gainsOf(trees: readonly Tree[]): { column: string; gain: number }[] {
  const gains = new Map<string, number>();
  for (const { nodes } of trees)
    for (const node of nodes)
      if (node.kind !== "leaf") gains.set(node.column, (gains.get(node.column) ?? 0) + node.gain);
  return [...gains].map(([column, gain]) => ({ column, gain })).sort((left, right) => right.gain - left.gain);
}

/** Single trees and forests of a number or of yes and no grow by squared error, which for yes and no is the Gini index. */
export const treeLoss = (task: Task): TreeLoss => (task.kind === "classes" ? "gini" : "squared");

/**
 * What gradients are measured from: the mean of a number, so that they are small. Answers of yes and no are 1 and 0
 * themselves, whose sums are exact, so that a leaf of one answer predicts exactly that.
 */
const startOf = (task: Task, mean: number): number => (task.kind === "number" ? mean : 0);

/** What a node of a tree or forest predicts: the mean target, or the share of each class. */
function meanIn(task: Task, start: number): (node: GrownNode) => readonly number[] {
  return ({ sums }) => {
    if (task.kind === "number") return [sums[1]! > 0 ? start - sums[0]! / sums[1]! : start];
    // Weights are rounded apart from weighted answers, so that their ratio may leave the bounds by a rounding.
    if (task.kind === "binary") return [sums[1]! > 0 ? Math.min(1, Math.max(0, -sums[0]! / sums[1]!)) : 0.5];
    const weights = [...sums.slice(0, -1)];
    const total = weights.reduce((sum, weight) => sum + weight, 0);
    return weights.map((weight) => (total > 0 ? weight / total : 1 / weights.length));
  };
}

const columnCount = (columns: TreeColumns): number => columns.numbers.length + columns.categories.length;

/**
 * Fits one classification or regression tree. Source: Breiman, Friedman, Olshen and Stone, Classification and Regression Trees,
 * 1984; categories by Fisher's ordering, missing values to the side where they fit best.
 */
export async function fitTree(
  ask: FrameQuestions,
  settings: TreeSettings,
  options: FitOptions,
): Promise<Result<Fitted<DecisionTreeModel>>> {
  const begun = await beginTrees(ask, options, settings.bins);
  if (!begun.ok) return begun;
  const { summary, columns } = begun.value;
  const loss = treeLoss(ask.task);
  const start = startOf(ask.task, summary.target.mean);
  await ask.trees.begin({
    cuts: columns.cuts,
    loss,
    outputs: 1,
    start: [start],
  });
  await ask.trees.beginRound();
  const rules: GrowRules = {
    loss,
    statistics: statisticsOf(loss, classCount(ask.task)),
    leaf_penalty: 0,
    least_rows: settings.least_rows,
    least_gain: settings.least_gain,
    depth: settings.depth,
    columns: { kind: "tree", columns: Array.from({ length: columnCount(columns) }, (_, index) => index) },
  };
  const grown = await growTree(ask.trees, 0, { kind: "all" }, columns, rules);
  await ask.trees.end();
  const tree = toTree(grown, columns, meanIn(ask.task, start));
  const fit = {
    rows: summary.rows,
    engine: ask.engine,
    numbersOut: ask.numbersOut(),
    passes: [],
    gains: gainsOf([tree]),
    depth: settings.depth,
  };
  return success({ warnings: [], model: { algorithm: "decision_tree", tree, fit } });
}

/**
 * Fits a random forest: every tree on a bootstrap sample, every split among a few columns drawn anew.
 * Bootstrap counts are Poisson numbers of the rows' own random numbers, so that they do not depend on the order of rows.
 * Source: Breiman, "Random forests", Machine Learning 45, 2001.
 */
export async function fitForest(
  ask: FrameQuestions,
  settings: ForestSettings,
  options: FitOptions,
): Promise<Result<Fitted<ForestModel>>> {
  const begun = await beginTrees(ask, options, settings.bins);
  if (!begun.ok) return begun;
  const { summary, columns } = begun.value;
  const loss = treeLoss(ask.task);
  const start = startOf(ask.task, summary.target.mean);
  const all = columnCount(columns);
  const share = settings.columns_share ?? (ask.task.kind === "number" ? 1 / 3 : Math.sqrt(all) / all);
  const picked = Math.max(1, Math.min(all, Math.round(share * all)));
  await ask.trees.begin({
    cuts: columns.cuts,
    loss,
    outputs: 1,
    start: [start],
  });
  await ask.trees.beginRound();
  const trees: Tree[] = [];
  const passes: Pass[] = [];
  const predict = meanIn(ask.task, start);
  for (let index = 0; index < settings.trees; index += 1) {
    const seed = Math.floor(uniform(index, settings.seed) * 4294967296);
    const sample: RowSample = { kind: "bootstrap", seed };
    const rules: GrowRules = {
      loss,
      statistics: statisticsOf(loss, classCount(ask.task)),
      leaf_penalty: 0,
      least_rows: settings.least_rows,
      least_gain: 0,
      depth: settings.depth,
      columns: {
        kind: "node",
        pick: (node) =>
          shuffled(all, seed + node + 1)
            .slice(0, picked)
            .sort((left, right) => left - right),
      },
    };
    const grown = await growTree(ask.trees, 0, sample, columns, rules);
    const tree = toTree(grown, columns, predict);
    trees.push(tree);
    await options.breathe?.();
    await ask.trees.vote(
      grown.splits,
      grown.leaves,
      grown.leaves.map((node) => tree.nodes[node]!.value),
    );
    if ((index + 1) % 10 === 0 || index + 1 === settings.trees) {
      const { loss: left } = await ask.trees.outOfBag();
      const pass: Pass = { pass: index + 1, scope: "tree", loss: left, validation: left };
      passes.push(pass);
      await options.onPass?.(pass);
    }
  }
  const outOfBag = await ask.trees.outOfBag();
  await ask.trees.end();
  return success({
    warnings: [],
    model: {
      algorithm: "random_forest",
      trees,
      fit: {
        rows: summary.rows,
        engine: ask.engine,
        numbersOut: ask.numbersOut(),
        passes,
        gains: gainsOf(trees),
        depth: settings.depth,
        outOfBag,
      },
    },
  });
}
