import { column, integer, sumOf, type Expression } from "@/core/expression/ast";
import { classCount } from "@/core/learn/task";
import { halfway, partingShares, quantileCuts, quantileShares } from "@/core/learn/trees/cuts";
import { curvatureScale, gradientScale } from "@/core/learn/trees/exact";
import {
  statisticsOf,
  type AppliedSplit,
  type HistogramRequest,
  type Losses,
  type NodeHistogram,
  type RowSample,
  type Strata,
  type TreeQuestions,
  type TreeStart,
} from "@/core/learn/trees/tree-questions";
import type { FrameRows } from "@/core/questions/frame/frame-rows";
import type { Question } from "@/core/questions/question";
import { rowCountQuestion } from "@/core/questions/row-count";
import { distinctQuestion, quantilesQuestion, targetQuantilesQuestion } from "@/core/questions/trees/cuts";
import {
  addedVotes,
  histogramQuestion,
  mediansQuestion,
  noVotes,
  rootQuestion,
  type GrowingTree,
} from "@/core/questions/trees/histograms";
import {
  largestGradientQuestion,
  lossesQuestion,
  outOfBagQuestion,
  weightsQuestion,
  wholeSlopes,
} from "@/core/questions/trees/losses";
import { additionOf, samplingCount } from "@/core/questions/trees/nodes";
import {
  firstState,
  nextRound,
  scoredRows,
  scoreName,
  stateRows,
  withVotes,
  type TreeState,
} from "@/core/questions/trees/state";
import { strataQuestion } from "@/core/questions/trees/strata";
import type { Relation } from "@/core/relation/relation";
import type { WarehouseFrameTables } from "./frame-questions";
import type { WarehouseSession } from "./port/session";

type Ask = <Answer>(question: Question<Answer>) => Promise<Answer>;

/** A training that has begun. */
interface Training {
  readonly start: TreeStart;
  readonly binCounts: readonly number[];
  /** How many sums a bin has. */
  readonly statistics: number;
  /** How many classes gini counts; 0 for other losses. */
  readonly classes: number;
  readonly rows: number;
}

/** Answers the questions of trees over a table of bins in the warehouse, which is written anew every round. */
export class WarehouseTrees implements TreeQuestions {
  private training: Training | undefined;
  private state: TreeState;
  private tree: GrowingTree = { output: 0, count: integer(1), classes: 0 };
  private scales = { gradient: 1, curvature: 1 };
  /** What trees of this round add to each output. */
  private additions: { readonly output: number; readonly value: Expression }[] = [];

  constructor(
    private readonly session: WarehouseSession,
    private readonly ask: Ask,
    private readonly frame: FrameRows,
    private readonly tables: WarehouseFrameTables,
  ) {
    const features = tables.numbers.length + tables.categories.length;
    this.state = { table: tables.states[0], features, outputs: 0, held: false, slopes: 0, votes: 0 };
  }

  private get now(): Training {
    if (!this.training) throw new Error("begin() comes first");
    return this.training;
  }

  async cuts(mostBins: number): Promise<readonly Float64Array[]> {
    const total = await this.ask(rowCountQuestion(this.frame.rows, "count rows"));
    const cuts: Float64Array[] = [];
    for (const name of this.tables.numbers) {
      const found = await this.ask(distinctQuestion(this.frame, name, total, mostBins));
      const values = [...new Set(found)];
      if (found.length <= mostBins) cuts.push(halfway(values));
      else {
        const shares = quantileShares(mostBins);
        const quantiles = await this.ask(quantilesQuestion(this.frame, name, total, shares));
        cuts.push(quantileCuts(quantiles, values[0]!));
      }
    }
    return cuts;
  }

  targetCuts(parts: number): Promise<readonly number[]> {
    return this.ask(targetQuantilesQuestion(this.frame, partingShares(parts)));
  }

  strata(strata: Strata, shares: readonly number[]): Promise<readonly (readonly number[])[]> {
    return this.ask(strataQuestion(this.frame, strata, shares));
  }

  async begin(start: TreeStart): Promise<void> {
    const { numbers, categories, task, states } = this.tables;
    const classes = classCount(task);
    for (const table of states) await this.session.drop(table, "drop an earlier state");
    this.additions = [];
    const columns = { numbers, categories: categories.map((category) => category.column) };
    await this.session.materialize(firstState(this.frame, columns, start), states[0], "put rows into bins");
    this.state = {
      table: states[0],
      features: this.state.features,
      outputs: start.outputs,
      held: start.held !== undefined,
      slopes: 0,
      votes: 0,
    };
    const { rows, largest, total } = await this.ask(weightsQuestion(stateRows(this.state)));
    this.training = {
      start,
      statistics: statisticsOf(start.loss, classes),
      classes: start.loss === "gini" ? classes : 0,
      rows,
      binCounts: [
        ...start.cuts.map((cut) => cut.length + 2),
        ...categories.map((category) => category.levels.length + 1),
      ],
    };
    this.scales = {
      gradient: gradientScale(rows, largest ?? 1),
      curvature: curvatureScale(rows, total, start.loss),
    };
  }

  /** The score of an output with what trees have added to it in this round. */
  private scoreOf(output: number): Expression {
    const added = this.additions.filter((addition) => addition.output === output);
    return sumOf([column(scoreName(output)), ...added.map(({ value }) => value)]);
  }

  private get scores(): readonly Expression[] {
    return Array.from({ length: this.state.outputs }, (_, output) => this.scoreOf(output));
  }

  /** Writes the state anew into the other of its two tables. */
  private async rewrite(
    rows: Relation,
    purpose: string,
    changed: Partial<Pick<TreeState, "slopes" | "votes">> = {},
  ): Promise<void> {
    const [first, second] = this.tables.states;
    const next = this.state.table === first ? second : first;
    await this.session.drop(next, "drop the previous state");
    await this.session.materialize(rows, next, purpose);
    this.state = { ...this.state, ...changed, table: next };
  }

  async beginRound(): Promise<void> {
    const { start, rows } = this.now;
    if (start.loss === "squared") {
      const largest = await this.ask(largestGradientQuestion(this.state, this.scoreOf(0)));
      this.scales = { ...this.scales, gradient: gradientScale(rows, largest) };
    }
    const slopes = wholeSlopes(start.loss, start.outputs, this.scales);
    const round = nextRound(this.state, this.scores, slopes);
    await this.rewrite(round, "scores and gradients of this round", { slopes: slopes.length / 2 });
    this.additions = [];
  }

  /** Sums divided by their scales; the last is the number of rows. */
  private unscaled(sums: readonly number[]): Float64Array {
    const { statistics, classes } = this.now;
    const { gradient, curvature } = this.scales;
    return Float64Array.from({ length: statistics }, (_, index) => {
      const value = sums[index] ?? 0;
      if (index === statistics - 1) return value;
      return value / (classes > 0 || index === 0 ? gradient : curvature);
    });
  }

  async grow(output: number, sample: RowSample): Promise<Float64Array> {
    const count = samplingCount(sample, this.state.held);
    this.tree = { output, count, classes: this.now.classes };
    return this.unscaled(await this.ask(rootQuestion(this.state, this.tree)));
  }

  async histograms(
    splits: readonly AppliedSplit[],
    wanted: readonly HistogramRequest[],
  ): Promise<readonly NodeHistogram[]> {
    const { statistics, binCounts } = this.now;
    const features = [...new Set(wanted.flatMap((request) => request.columns))].sort(
      (left, right) => left - right,
    );
    const sums = new Map<string, Float64Array>();
    for (const feature of features) {
      const nodes = wanted
        .filter((request) => request.columns.includes(feature))
        .map((request) => request.node);
      for (const node of nodes)
        sums.set(`${node}/${feature}`, new Float64Array(binCounts[feature]! * statistics));
      const place = { splits, nodes, feature, name: this.nameOf(feature) };
      for (const found of await this.ask(histogramQuestion(this.state, this.tree, place)))
        sums.get(`${found.node}/${feature}`)!.set(this.unscaled(found.sums), found.bin * statistics);
    }
    return wanted.map(({ node, columns }) =>
      joined(
        node,
        columns.map((column) => ({ column, sums: sums.get(`${node}/${column}`)! })),
      ),
    );
  }

  private nameOf(feature: number): string {
    const { numbers, categories } = this.tables;
    return numbers[feature] ?? categories[feature - numbers.length]?.column ?? "a column";
  }

  medians(splits: readonly AppliedSplit[], nodes: readonly number[]): Promise<readonly number[]> {
    return this.ask(mediansQuestion(this.state, splits, nodes, this.tree.count));
  }

  add(
    output: number,
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly number[],
  ): Promise<void> {
    this.additions.push({ output, value: additionOf({ splits, nodes, values }) });
    return Promise.resolve();
  }

  async vote(
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly (readonly number[])[],
  ): Promise<void> {
    const outputs = Math.max(1, this.now.classes);
    if (this.state.votes === 0)
      await this.rewrite(withVotes(this.state, noVotes(outputs)), "start counting votes", { votes: outputs });
    const trees = Array.from({ length: outputs }, (_, output) => ({
      splits,
      nodes,
      values: values.map((value) => value[output]!),
    }));
    const votes = addedVotes(trees, this.tree.count);
    await this.rewrite(withVotes(this.state, votes), "votes for out-of-bag rows");
  }

  losses(): Promise<Losses> {
    const scored = scoredRows(this.state, this.scores);
    return this.ask(lossesQuestion(scored, this.now.start.loss, this.state));
  }

  outOfBag(): Promise<{ loss: number; rows: number }> {
    return this.ask(outOfBagQuestion(this.state, this.tables.task.kind));
  }

  async end(): Promise<void> {
    for (const table of this.tables.states) await this.session.drop(table, "remove the state");
    this.training = undefined;
  }
}

/** The histograms of a node, column after column, as one array. */
function joined(
  node: number,
  parts: readonly { readonly column: number; readonly sums: Float64Array }[],
): NodeHistogram {
  const whole = new Float64Array(parts.reduce((size, part) => size + part.sums.length, 0));
  let place = 0;
  const columns = parts.map(({ column, sums }) => {
    const from = place;
    whole.set(sums, from);
    place += sums.length;
    return { column, from, to: place };
  });
  return { node, sums: whole, columns };
}
