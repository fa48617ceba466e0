import { classCount, type Task } from "../task";
import {
  CUT_ROWS,
  discreteQuantile,
  halfway,
  partingShares,
  quantileCuts,
  quantileShares,
} from "../trees/cuts";
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
} from "../trees/tree-questions";
import { ArrayPool } from "./array-pool";
import { mergeSorted } from "./binning";
import { LocalBlocks, type TreeBlocks } from "./blocks";
import { totalWeight } from "./linear";
import type { ColumnData } from "./column-data";
import { medianOf } from "./tables";
import { numberOf, stratumOf } from "./tree-block";

interface State {
  readonly start: TreeStart;
  readonly statistics: number;
  readonly binCounts: readonly number[];
}

/** Losses and the largest gradient at the scores so far. */
interface Slopes {
  readonly losses: Losses;
  readonly most: number;
}

const sum = (chunks: readonly Float64Array[]): number =>
  chunks.reduce((total, chunk) => chunk.reduce((all, value) => all + value, total), 0);

/** Answers the questions of trees over rows in memory: asks blocks of rows, and puts together what they say. */
export class MemoryTrees implements TreeQuestions {
  private state: State | undefined;
  private slopes: Slopes | undefined;
  private answers: readonly Float64Array[] = [];
  private readonly pool = new ArrayPool();

  constructor(
    private readonly data: ColumnData,
    private readonly task: Task,
    private readonly blocks: TreeBlocks = new LocalBlocks(),
  ) {}

  async cuts(mostBins: number): Promise<readonly Float64Array[]> {
    const { rows, numbers } = this.data;
    this.blocks.load(this.data);
    const share = rows <= CUT_ROWS ? 1 : CUT_ROWS / rows;
    const sorted = await this.blocks.ask("sorted", () => [share]);
    return numbers.map((_, column) => {
      const present = mergeSorted(sorted.map((values) => values[column]!));
      const distinct: number[] = [];
      for (let index = 0; index < present.length && distinct.length <= mostBins; index += 1)
        if (index === 0 || present[index] !== present[index - 1]) distinct.push(present[index]!);
      if (distinct.length <= mostBins) return halfway(distinct);
      return quantileCuts(
        quantileShares(mostBins).map((quantileShare) => discreteQuantile(present, quantileShare)),
        present[0]!,
      );
    });
  }

  targetCuts(parts: number): Promise<readonly number[]> {
    const sorted = this.data.target.slice().sort();
    return Promise.resolve(partingShares(parts).map((share) => discreteQuantile(sorted, share)));
  }

  strata({ seed, cuts }: Strata, shares: readonly number[]): Promise<readonly (readonly number[])[]> {
    const { draw, target } = this.data;
    const numbers = Array.from({ length: cuts.length + 1 }, (): number[] => []);
    draw.forEach((value, row) => numbers[stratumOf(cuts, target[row]!)]!.push(numberOf(value, seed)));
    return Promise.resolve(
      numbers.map((stratum) => {
        stratum.sort((left, right) => left - right);
        return shares.map((share) => stratum[Math.floor(share * stratum.length + 0.5)] ?? Infinity);
      }),
    );
  }

  async begin(start: TreeStart): Promise<void> {
    const { rows, categories, weight } = this.data;
    this.blocks.load(this.data);
    const classes = classCount(this.task);
    const heaviest = weight === undefined ? 1 : weight.reduce((most, value) => Math.max(most, value), 0);
    await this.blocks.ask("begin", () => [
      { ...start, classes, allRows: rows, totalWeight: totalWeight(this.data), heaviest },
    ]);
    this.state = {
      start,
      statistics: statisticsOf(start.loss, classes),
      binCounts: [
        ...start.cuts.map((cut) => cut.length + 2),
        ...categories.map((category) => category.levels.length + 1),
      ],
    };
    this.slopes = undefined;
  }

  private get now(): State {
    if (!this.state) throw new Error("begin() comes first");
    return this.state;
  }

  /** Gradients and losses come from one pass, which is done once for the scores as they are. */
  private async computed(): Promise<Slopes> {
    if (this.slopes) return this.slopes;
    const found = await this.blocks.ask("slopes", () => []);
    const mean = (side: 0 | 1): number =>
      sum(found.map((part) => part.losses[side])) / sum(found.map((part) => part.weights[side]));
    this.slopes = {
      losses: { training: mean(0), ...(this.now.start.held ? { validation: mean(1) } : {}) },
      most: found.reduce((most, part) => Math.max(most, part.most), 0),
    };
    return this.slopes;
  }

  async beginRound(): Promise<void> {
    await this.computed();
  }

  async grow(output: number, sample: RowSample): Promise<Float64Array> {
    this.pool.giveBack();
    const { most } = await this.computed();
    const [first, ...others] = await this.blocks.ask("grow", () => [output, sample, most]);
    const sums = first!.slice();
    for (const array of others) add(sums, array, 0, array.length);
    return sums;
  }

  async histograms(
    splits: readonly AppliedSplit[],
    wanted: readonly HistogramRequest[],
  ): Promise<readonly NodeHistogram[]> {
    const { statistics, binCounts } = this.now;
    const sizes = wanted.map(({ columns }) =>
      columns.reduce((size, column) => size + binCounts[column]! * statistics, 0),
    );
    const size = sizes.reduce((total, size) => total + size, 0);
    if (this.answers.length === 0 || this.answers[0]!.length < size)
      this.answers = Array.from(
        { length: this.blocks.count },
        () => new Float64Array(new SharedArrayBuffer(Math.max(8, 16 * size))),
      );
    await this.blocks.ask("histograms", (block) => [splits, wanted, this.answers[block]!]);
    let begin = 0;
    return wanted.map(({ node, columns }, index) => {
      let from = 0;
      const placed = columns.map((column) => {
        const to = from + binCounts[column]! * statistics;
        const place = { column, from, to };
        from = to;
        return place;
      });
      const sums = this.pool.take(sizes[index]!);
      const [first, ...others] = this.answers;
      sums.set(first!.subarray(begin, begin + from));
      for (const array of others) add(sums, array, begin, from);
      begin += from;
      return { node, sums, columns: placed };
    });
  }

  async medians(splits: readonly AppliedSplit[], nodes: readonly number[]): Promise<readonly number[]> {
    const found = await this.blocks.ask("rest", () => [splits, nodes]);
    return nodes.map((_, index) => {
      const parts = found.map((part) => part[index]!);
      return medianOf(
        joined(parts.map((part) => part.values)),
        this.data.weight && joined(parts.map((part) => part.weights!)),
      );
    });
  }

  async add(
    output: number,
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly number[],
  ): Promise<void> {
    await this.blocks.ask("add", () => [output, splits, nodes, values]);
    // The other outputs of a round are still grown on the gradients of its beginning.
    if (output === this.now.start.outputs - 1) this.slopes = undefined;
  }

  async vote(
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly (readonly number[])[],
  ): Promise<void> {
    await this.blocks.ask("vote", () => [splits, nodes, values]);
  }

  async losses(): Promise<Losses> {
    return (await this.computed()).losses;
  }

  async outOfBag(): Promise<{ loss: number; rows: number }> {
    const found = await this.blocks.ask("outOfBag", () => [this.task.kind === "binary"]);
    return {
      loss: sum(found.map((part) => part.losses)) / sum(found.map((part) => part.weights)),
      rows: found.reduce((rows, part) => rows + part.rows, 0),
    };
  }

  end(): Promise<void> {
    this.state = undefined;
    this.answers = [];
    return Promise.resolve();
  }
}

function add(sums: Float64Array, what: Float64Array, from: number, length: number): void {
  for (let index = 0; index < length; index += 1) sums[index]! += what[from + index]!;
}

function joined(parts: readonly Float64Array[]): Float64Array {
  const all = new Float64Array(parts.reduce((length, part) => length + part.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}
