import { shuffled, uniform } from "../../numeric/random";
import { success, warning, type Problem, type Result } from "../../problem";
import type { Fitted, FitOptions } from "../fitting";
import type { FrameQuestions, FrameSummary } from "../questions";
import type { BoostSettings } from "../settings";
import { classCount, outputsOf, type Task } from "../task";
import type { Pass } from "../watch";
import { beginTrees, gainsOf } from "./fit-trees";
import { growTree, toTree, type GrownNode, type GrownTree, type GrowRules } from "./grow";
import { statisticsOf, type RowSample, type TreeLoss } from "./tree-questions";
import type { Tree } from "./tree";
import type { BoostedModel } from "./tree-models";

function lossOf(task: Task, settings: BoostSettings): TreeLoss {
  if (task.kind === "number") return settings.loss === "absolute" ? "absolute" : "squared";
  return task.kind === "binary" ? "logistic" : "softmax";
}

/** Scores before the first tree: the best constant. */
async function startOf(ask: FrameQuestions, loss: TreeLoss, summary: FrameSummary): Promise<number[]> {
  switch (loss) {
    case "squared":
    case "gini":
      return [summary.target.mean];
    case "absolute":
      return [await ask.targetMedian()];
    case "logistic":
      return [Math.log(summary.target.mean / (1 - summary.target.mean))];
    case "softmax":
      return summary.classes.map((each) => Math.log(Math.max(each.weight, 1e-9) / summary.weight));
  }
}

/**
 * Fits gradient-boosted trees by histograms.
 * Sources: Friedman, "Greedy function approximation: a gradient boosting machine", Annals of Statistics 29, 2001 (losses, and leaf
 * values of absolute loss by medians); Friedman, Hastie and Tibshirani, "Additive logistic regression", Annals of Statistics 28, 2000 (steps by curvature).
 */
export async function fitBoosted(
  ask: FrameQuestions,
  settings: BoostSettings,
  options: FitOptions,
): Promise<Result<Fitted<BoostedModel>>> {
  const begun = await beginTrees(ask, options, settings.bins);
  if (!begun.ok) return begun;
  const { summary, columns } = begun.value;
  const loss = lossOf(ask.task, settings);
  const outputs = loss === "softmax" ? outputsOf(ask.task) : 1;
  const start = await startOf(ask, loss, summary);
  const all = columns.numbers.length + columns.categories.length;
  const seed = Math.floor(uniform(0, settings.seed) * 4294967296);
  await ask.trees.begin({
    cuts: columns.cuts,
    loss,
    outputs,
    start,
    validation: settings.validation_share,
    validationSeed: seed,
  });
  const rounds: Tree[][] = [];
  const passes: Pass[] = [];
  let best = { rounds: 0, loss: Infinity };
  for (let round = 1; round <= settings.trees; round += 1) {
    await ask.trees.beginRound();
    const draw = Math.floor(uniform(round, settings.seed) * 4294967296);
    const sample: RowSample =
      settings.rows_share < 1 ? { kind: "share", share: settings.rows_share, seed: draw } : { kind: "all" };
    const picked = Math.max(1, Math.round(settings.columns_share * all));
    const rules: GrowRules = {
      loss,
      statistics: statisticsOf(loss, classCount(ask.task)),
      leaf_penalty: settings.leaf_penalty,
      least_rows: settings.least_rows,
      least_gain: settings.least_gain,
      depth: settings.depth,
      columns: {
        kind: "tree",
        columns:
          picked === all
            ? Array.from({ length: all }, (_, index) => index)
            : shuffled(all, draw)
                .slice(0, picked)
                .sort((left, right) => left - right),
      },
    };
    const trees: Tree[] = [];
    for (let output = 0; output < outputs; output += 1) {
      const grown = await growTree(ask.trees, output, sample, columns, rules);
      const values = await leafValues(ask, loss, grown, settings);
      trees.push(toTree(grown, columns, (node) => [values(node)]));
      await ask.trees.add(
        output,
        grown.splits,
        grown.leaves,
        grown.leaves.map((node) => values(grown.nodes[node]!)),
      );
    }
    rounds.push(trees);
    const { training, validation } = await ask.trees.losses();
    const pass: Pass = {
      pass: round,
      scope: "tree",
      loss: training,
      ...(validation === undefined ? {} : { validation }),
    };
    passes.push(pass);
    await options.onPass?.(pass);
    if (validation !== undefined) {
      if (validation < best.loss) best = { rounds: round, loss: validation };
      else if (round - best.rounds >= settings.stop_after) break;
    }
    // A round that found nothing to split will find nothing the next time either, unless rows or columns are drawn anew.
    if (
      trees.every((tree) => tree.nodes.length === 1) &&
      settings.rows_share >= 1 &&
      settings.columns_share >= 1
    )
      break;
  }
  await ask.trees.end();
  const kept = settings.validation_share > 0 ? rounds.slice(0, Math.max(1, best.rounds)) : rounds;
  const warnings: Problem[] =
    settings.validation_share > 0 && best.rounds === settings.trees && settings.trees > 1
      ? [
          warning(
            "still_improving",
            `The loss on the rows kept apart was still falling at tree ${settings.trees}.`,
            "Raise trees, or the learning rate.",
          ),
        ]
      : [];
  const used = kept.flat();
  return success({
    warnings,
    model: {
      algorithm: "boosted_trees",
      link: loss === "logistic" ? "logistic" : loss === "softmax" ? "softmax" : "identity",
      start,
      rounds: kept,
      fit: {
        rows: summary.rows,
        engine: ask.engine,
        numbersOut: ask.numbersOut(),
        passes,
        gains: gainsOf(used),
        depth: settings.depth,
        learningRate: settings.learning_rate,
        grown: rounds.length,
        meanLoss: passes[kept.length - 1]?.loss,
      },
    },
  });
}

/** What each node adds to the score: a shortened Newton step, or for absolute loss the median of what is left. */
async function leafValues(
  ask: FrameQuestions,
  loss: TreeLoss,
  grown: GrownTree,
  settings: BoostSettings,
): Promise<(node: GrownNode) => number> {
  const newton = ({ sums }: GrownNode): number =>
    sums[1]! + settings.leaf_penalty > 0
      ? (-sums[0]! / (sums[1]! + settings.leaf_penalty)) * settings.learning_rate
      : 0;
  if (loss !== "absolute") return newton;
  const medians = await ask.trees.medians(grown.splits, grown.leaves);
  const byNode = new Map(
    grown.leaves.map((node, index) => [
      node,
      (Number.isNaN(medians[index]!) ? 0 : medians[index]!) * settings.learning_rate,
    ]),
  );
  return (node) => byNode.get(node.number) ?? newton(node);
}
