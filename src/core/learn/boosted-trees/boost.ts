import { shuffled, uniform } from "../../numeric/random";
import { success, warning, type Problem, type Result } from "../../problem";
import type { Fitted, FitOptions } from "../fitting";
import type { FrameQuestions, FrameSummary } from "../questions";
import type { BoostSettings } from "./facts";
import { classCount, outputsOf, type Task } from "../task";
import type { Pass } from "../watch";
import { beginTrees, gainsOf } from "../trees/fit-trees";
import {
  growTree,
  toTree,
  type GrownNode,
  type GrownTree,
  type GrowRules,
  type TreeColumns,
} from "../trees/grow";
import { partingShares } from "../trees/cuts";
import {
  statisticsOf,
  type HeldRows,
  type RowSample,
  type Strata,
  type TreeLoss,
} from "../trees/tree-questions";
import type { Tree } from "../trees/tree";
import type { BoostedModel } from "../trees/tree-models";

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
      return summary.classes.map((oneClass) => Math.log(Math.max(oneClass.weight, 1e-9) / summary.weight));
  }
}

/** Up to so many rows, one part held apart says little about when to stop: all rows take turns, in so many parts. */
const [FEW_ROWS, TURNS] = [10_000, 5];
/** Beyond so many rows a part drawn at random is as good as one drawn in strata. */
const MANY_ROWS = 200_000;
/** Parts of about the same size by the target that a number's rows are drawn from. */
const NUMBER_STRATA = 10;

/** Trees that were grown one after the other, with the loss after each round. */
interface Grown {
  readonly rounds: readonly (readonly Tree[])[];
  readonly passes: readonly Pass[];
}

/** What all growing of one fit has in common. */
interface Growing {
  readonly ask: FrameQuestions;
  readonly settings: BoostSettings;
  readonly columns: TreeColumns;
  readonly loss: TreeLoss;
  readonly outputs: number;
  readonly start: readonly number[];
}

/** Grows rounds of trees until there are enough, the loss on the rows held apart falls no more, or nothing is left to split. */
async function growRounds(
  { ask, settings, columns, loss, outputs, start }: Growing,
  most: number,
  held: HeldRows | undefined,
  onPass: (pass: Pass) => Promise<void>,
): Promise<Grown> {
  const all = columns.numbers.length + columns.categories.length;
  await ask.trees.begin({ cuts: columns.cuts, loss, outputs, start, held });
  const rounds: Tree[][] = [];
  const passes: Pass[] = [];
  let best = { rounds: 0, loss: Infinity };
  for (let round = 1; round <= most; round += 1) {
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
    await onPass(pass);
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
  return { rounds, passes };
}

/** The strata that rows are drawn from: classes, tenths of a number, or all rows as one where there are very many. */
async function strataOf(ask: FrameQuestions, rows: number, seed: number): Promise<Strata> {
  if (rows > MANY_ROWS) return { seed, cuts: [] };
  if (ask.task.kind === "number")
    return { seed, cuts: [...new Set(await ask.trees.targetCuts(NUMBER_STRATA))] };
  return { seed, cuts: Array.from({ length: classCount(ask.task) - 1 }, (_, code) => code + 0.5) };
}

/** The round after which the loss on held rows was least, and that loss after each. */
function leastOf(curve: readonly number[]): number {
  return curve.reduce((least, loss, index) => (loss < curve[least]! ? index : least), 0) + 1;
}

/**
 * Mean loss on the rows held apart after each round, when every part of the rows takes its turn. A turn that stopped before the others
 * goes on with its last loss.
 */
async function lossByTurns(
  growing: Growing,
  strata: Strata,
  breathe: FitOptions["breathe"],
): Promise<readonly number[]> {
  const { ask, settings } = growing;
  const edges = await ask.trees.strata(strata, partingShares(TURNS));
  const curves: (readonly number[])[] = [];
  for (let turn = 0; turn < TURNS; turn += 1) {
    const bounds = edges.map(
      (parts) => [turn === 0 ? 0 : parts[turn - 1]!, parts[turn] ?? Infinity] as const,
    );
    const { passes } = await growRounds(growing, settings.trees, { ...strata, bounds }, async () =>
      breathe?.(),
    );
    curves.push(passes.map((pass) => pass.validation!).filter((loss) => !Number.isNaN(loss)));
  }
  const known = curves.filter((curve) => curve.length > 0);
  return Array.from(
    { length: Math.max(0, ...known.map((curve) => curve.length)) },
    (_, round) => known.reduce((sum, curve) => sum + (curve[round] ?? curve.at(-1)!), 0) / known.length,
  );
}

/** Decides when to stop, and grows: with all rows in turn where there are few, else with a part that is held apart throughout. */
async function growAndStop(
  growing: Growing,
  rows: number,
  options: FitOptions,
): Promise<Grown & { readonly kept: number }> {
  const { ask, settings } = growing;
  const onPass = async (pass: Pass): Promise<void> => options.onPass?.(pass);
  if (settings.validation_share === 0) {
    const grown = await growRounds(growing, settings.trees, undefined, onPass);
    return { ...grown, kept: grown.rounds.length };
  }
  const seed = Math.floor(uniform(0, settings.seed) * 4294967296);
  const strata = await strataOf(ask, rows, seed);
  if (rows <= FEW_ROWS) {
    const curve = await lossByTurns(growing, strata, options.breathe);
    const kept = leastOf(curve);
    const grown = await growRounds(growing, kept, undefined, async (pass) =>
      onPass({ ...pass, validation: curve[pass.pass - 1]! }),
    );
    const passes = grown.passes.map((pass) => ({ ...pass, validation: curve[pass.pass - 1]! }));
    return { ...grown, passes, kept: grown.rounds.length };
  }
  const edges = await ask.trees.strata(strata, [settings.validation_share]);
  const bounds = edges.map(([edge]) => [0, edge!] as const);
  const grown = await growRounds(growing, settings.trees, { ...strata, bounds }, onPass);
  return { ...grown, kept: leastOf(grown.passes.map((pass) => pass.validation ?? Infinity)) };
}

/**
 * Fits gradient-boosted trees by histograms.
 * Sources: Friedman, "Greedy function approximation: a gradient boosting machine", Annals of Statistics 29, 2001 (losses, and leaf
 * values of absolute loss by medians); Friedman, Hastie and Tibshirani, "Additive logistic regression", Annals of Statistics 28, 2000 (steps by curvature);
 * the number of rounds by cross-validation: Hastie, Tibshirani and Friedman, The Elements of Statistical Learning, 2nd ed., sections 7.10 and 10.12.
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
  const growing: Growing = { ask, settings, columns, loss, outputs, start };
  const { rounds, passes, kept: count } = await growAndStop(growing, summary.rows, options);
  const kept = rounds.slice(0, Math.max(1, count)).map((trees) => [...trees]);
  const warnings: Problem[] =
    settings.validation_share > 0 && count === settings.trees && settings.trees > 1
      ? [
          warning(
            "still_improving",
            `The validation loss was still falling at tree ${settings.trees}.`,
            "Raise trees, or the learning rate.",
          ),
        ]
      : [];
  const used = kept.flat();
  return success({
    warnings,
    model: {
      algorithm: "boosted_trees",
      link: loss === "logistic" || loss === "softmax" ? loss : "identity",
      start,
      rounds: kept,
      fit: {
        rows: summary.rows,
        engine: ask.engine,
        numbersOut: ask.numbersOut(),
        passes: [...passes],
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
