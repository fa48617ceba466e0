import { mix, poissonCount } from "../../numeric/random";
import { classCount, type Task } from "../task";
import { binOf, CUT_ROWS, discreteQuantile, halfway, quantileCuts, quantileShares } from "../trees/cuts";
import { scaleFor, truncate } from "../trees/exact";
import { statisticsOf, type AppliedSplit, type HistogramRequest, type NodeHistogram, type RowSample, type TreeQuestions, type TreeStart } from "../trees/tree-questions";
import type { ColumnData } from "./column-data";
import { sumHistograms, type Bins, type HistogramArrays, type HistogramTask, type HistogramTeam } from "./histogram";
import { ArrayPool } from "./array-pool";
import { gradientsInto, lossAt } from "./losses";
import { medianOf } from "./tables";

const shared = (bytes: number): SharedArrayBuffer => new SharedArrayBuffer(Math.max(8, bytes));

interface State {
  readonly start: TreeStart;
  readonly statistics: number;
  readonly binCounts: readonly number[];
  readonly arrays: HistogramArrays;
  readonly scores: readonly Float64Array[];
  readonly gradients: readonly Float64Array[];
  readonly curvatures: readonly Float64Array[];
  readonly validation: Uint8Array | undefined;
  /** Rows that take part in the present tree, and how often. */
  readonly counts: Uint8Array;
  readonly left: { readonly order: Uint32Array; readonly gradients: Float64Array; readonly curvatures: Float64Array; readonly counts: Uint8Array; readonly classes: Uint16Array };
  readonly votes: { readonly sums: readonly Float64Array[]; readonly trees: Uint16Array };
}

/** Answers the questions of trees over rows in memory. Histograms are summed by a team of threads when there is one. */
export class MemoryTrees implements TreeQuestions {
  private state: State | undefined;
  private ranges = new Map<number, { readonly from: number; readonly to: number }>();
  private scales = { gradient: 1, curvature: 1 };
  private answers = new Float64Array(shared(0));
  private applied = 0;
  /** Whether every row counts once in the present tree. */
  private once = false;
  private readonly pool = new ArrayPool();

  constructor(private readonly data: ColumnData, private readonly task: Task, private readonly team: HistogramTeam | undefined) {}

  cuts(mostBins: number): Promise<readonly Float64Array[]> {
    const { rows, draw, numbers } = this.data;
    const share = rows <= CUT_ROWS ? 1 : CUT_ROWS / rows;
    return Promise.resolve(numbers.map(({ values }) => {
      const present = values.filter((value, row) => draw[row]! < share && !Number.isNaN(value)).sort();
      const distinct: number[] = [];
      for (let index = 0; index < present.length && distinct.length <= mostBins; index += 1) if (index === 0 || present[index] !== present[index - 1]) distinct.push(present[index]!);
      if (distinct.length <= mostBins) return halfway(distinct);
      return quantileCuts(quantileShares(mostBins).map((each) => discreteQuantile(present, each)), present[0]!);
    }));
  }

  async begin(start: TreeStart): Promise<void> {
    const { rows, numbers, categories, draw, weight } = this.data;
    const bins = [
      ...numbers.map(({ values }, column): Bins => {
        const made = new Uint8Array(shared(rows));
        const cuts = start.cuts[column]!;
        for (let row = 0; row < rows; row += 1) made[row] = binOf(cuts, values[row]!);
        return made;
      }),
      ...categories.map(({ codes, levels }): Bins => {
        const made = levels.length < 256 ? new Uint8Array(shared(rows)) : new Uint16Array(shared(2 * rows));
        made.set(codes);
        return made;
      }),
    ];
    const gini = start.loss === "gini";
    const doubles = (): Float64Array => new Float64Array(shared(8 * rows));
    const outputs = Array.from({ length: start.outputs });
    const classes = gini ? rows : 0;
    const arrays: HistogramArrays = { bins, order: new Uint32Array(shared(4 * rows)), gradients: doubles(), curvatures: doubles(), counts: new Uint8Array(shared(rows)), classes: new Uint16Array(shared(2 * classes)) };
    const votes = gini ? classCount(this.task) : 1;
    this.state = {
      start, arrays, statistics: statisticsOf(start.loss, classCount(this.task)),
      binCounts: [...start.cuts.map((each) => each.length + 2), ...categories.map((each) => each.levels.length + 1)],
      scores: outputs.map((_, output) => new Float64Array(rows).fill(start.start[output]!)),
      gradients: outputs.map(() => new Float64Array(rows)), curvatures: outputs.map(() => new Float64Array(rows)),
      validation: start.validation > 0 ? Uint8Array.from(draw, (value) => (mix(value * 4294967296, start.validationSeed) / 4294967296 < start.validation ? 1 : 0)) : undefined,
      counts: new Uint8Array(rows),
      left: { order: new Uint32Array(rows), gradients: new Float64Array(rows), curvatures: new Float64Array(rows), counts: new Uint8Array(rows), classes: new Uint16Array(classes) },
      votes: { sums: Array.from({ length: votes }, () => new Float64Array(0)), trees: new Uint16Array(0) },
    };
    this.answers = new Float64Array(shared(0));
    const heaviest = weight === undefined ? 1 : weight.reduce((most, each) => Math.max(most, each), 0);
    this.scales = { gradient: scaleFor(rows, heaviest), curvature: scaleFor(rows, heaviest) };
  }

  private get now(): State {
    if (!this.state) throw new Error("begin() comes first");
    return this.state;
  }

  beginRound(): Promise<void> {
    const { start, scores, gradients, curvatures } = this.now;
    const { target, weight, rows } = this.data;
    gradientsInto(start.loss, target, weight, scores, gradients, curvatures);
    if (start.loss === "squared") {
      let most = 0;
      const [gradient] = gradients;
      for (let row = 0; row < rows; row += 1) most = Math.max(most, Math.abs(gradient![row]!));
      this.scales = { ...this.scales, gradient: scaleFor(rows, most) };
    }
    gradients.forEach((each) => truncate(each, this.scales.gradient));
    curvatures.forEach((each) => truncate(each, this.scales.curvature));
    return Promise.resolve();
  }

  grow(output: number, sample: RowSample): Promise<Float64Array> {
    const { rows, draw, target } = this.data;
    const { arrays, counts, validation, gradients, curvatures, start, statistics } = this.now;
    for (let row = 0; row < rows; row += 1) {
      const often = sample.kind === "all" ? 1 : sample.kind === "share" ? (mix(draw[row]! * 4294967296, sample.seed) / 4294967296 < sample.share ? 1 : 0) : poissonCount(mix(draw[row]! * 4294967296, sample.seed) / 4294967296);
      counts[row] = validation?.[row] === 1 ? 0 : often;
    }
    const gini = start.loss === "gini";
    const [gradient, curvature] = [gradients[output]!, curvatures[output]!];
    const sums = new Float64Array(statistics);
    for (let row = 0; row < rows; row += 1) {
      const often = counts[row]!;
      arrays.order[row] = row;
      arrays.gradients[row] = gradient[row]! * often;
      arrays.curvatures[row] = curvature[row]! * often;
      arrays.counts[row] = often > 0 ? 1 : 0;
      if (gini) {
        arrays.classes[row] = target[row]!;
        sums[target[row]!]! += arrays.gradients[row]!;
        sums[statistics - 1]! += arrays.counts[row]!;
      } else {
        sums[0]! += arrays.gradients[row]!;
        sums[1]! += arrays.curvatures[row]!;
        sums[2]! += arrays.counts[row]!;
      }
    }
    this.pool.giveBack();
    this.once = sample.kind === "all" && validation === undefined;
    this.ranges = new Map([[0, { from: 0, to: rows }]]);
    this.applied = 0;
    return Promise.resolve(this.unscaled(sums, statistics));
  }

  /** Sums in the units of the target: the scales are powers of two, so nothing is rounded. */
  private unscaled(sums: Float64Array, statistics: number): Float64Array {
    const gini = this.now.start.loss === "gini";
    const { gradient, curvature } = this.scales;
    const [perGradient, perCurvature] = [1 / gradient, 1 / curvature];
    for (let at = 0; at < sums.length; at += statistics) {
      if (gini) for (let index = 0; index < statistics - 1; index += 1) sums[at + index]! /= gradient;
      else {
        sums[at]! *= perGradient;
        sums[at + 1]! *= perCurvature;
      }
    }
    return sums;
  }

  /** Puts the rows of split nodes side by side: those that go left first, each side in its earlier order. */
  private apply(splits: readonly AppliedSplit[]): void {
    const { arrays, left: spare, start } = this.now;
    const gini = start.loss === "gini";
    for (const split of splits.slice(this.applied)) {
      const { from, to } = this.ranges.get(split.node)!;
      const bins = arrays.bins[split.column]!;
      const goes = leftBins(split, this.now.binCounts[split.column]!);
      let kept = from;
      let right = 0;
      for (let index = from; index < to; index += 1) {
        const row = arrays.order[index]!;
        if (goes[bins[row]!] === 1) {
          arrays.order[kept] = row;
          arrays.gradients[kept] = arrays.gradients[index]!;
          arrays.curvatures[kept] = arrays.curvatures[index]!;
          arrays.counts[kept] = arrays.counts[index]!;
          if (gini) arrays.classes[kept] = arrays.classes[index]!;
          kept += 1;
        } else {
          spare.order[right] = row;
          spare.gradients[right] = arrays.gradients[index]!;
          spare.curvatures[right] = arrays.curvatures[index]!;
          spare.counts[right] = arrays.counts[index]!;
          if (gini) spare.classes[right] = arrays.classes[index]!;
          right += 1;
        }
      }
      arrays.order.set(spare.order.subarray(0, right), kept);
      arrays.gradients.set(spare.gradients.subarray(0, right), kept);
      arrays.curvatures.set(spare.curvatures.subarray(0, right), kept);
      arrays.counts.set(spare.counts.subarray(0, right), kept);
      if (gini) arrays.classes.set(spare.classes.subarray(0, right), kept);
      this.ranges.set(split.left, { from, to: kept });
      this.ranges.set(split.right, { from: kept, to });
    }
    this.applied = splits.length;
  }

  async histograms(splits: readonly AppliedSplit[], wanted: readonly HistogramRequest[]): Promise<readonly NodeHistogram[]> {
    const { arrays, statistics, binCounts, start } = this.now;
    this.apply(splits);
    const tasks: HistogramTask[] = [];
    let size = 0;
    for (const { node, columns } of wanted) {
      const { from, to } = this.ranges.get(node)!;
      for (const column of columns) {
        tasks.push({ column, from, to, offset: size });
        size += binCounts[column]! * statistics;
      }
    }
    if (this.answers.length < size) {
      this.answers = new Float64Array(shared(8 * size * 2));
      this.team?.begin(arrays, this.answers, statistics, start.loss === "gini");
    }
    this.answers.fill(0, 0, size);
    if (this.team) await this.team.run(tasks, this.once);
    else sumHistograms(arrays, tasks, this.answers, statistics, start.loss === "gini", this.once);
    let place = 0;
    return wanted.map(({ node, columns }) => {
      const begin = place;
      const placed = columns.map((column) => {
        const from = place - begin;
        place += binCounts[column]! * statistics;
        return { column, from, to: place - begin };
      });
      const sums = this.pool.take(place - begin);
      sums.set(this.answers.subarray(begin, place));
      return { node, sums: this.unscaled(sums, statistics), columns: placed };
    });
  }

  medians(splits: readonly AppliedSplit[], nodes: readonly number[]): Promise<readonly number[]> {
    this.apply(splits);
    const { arrays, scores } = this.now;
    const { target, weight } = this.data;
    return Promise.resolve(nodes.map((node) => {
      const { from, to } = this.ranges.get(node)!;
      const rows = [...arrays.order.subarray(from, to)].filter((_, index) => arrays.counts[from + index]! > 0);
      return medianOf(rows.map((row) => target[row]! - scores[0]![row]!), weight && Float64Array.from(rows, (row) => weight[row]!));
    }));
  }

  add(output: number, splits: readonly AppliedSplit[], nodes: readonly number[], values: readonly number[]): Promise<void> {
    this.apply(splits);
    const { order } = this.now.arrays;
    const score = this.now.scores[output]!;
    nodes.forEach((node, index) => {
      const { from, to } = this.ranges.get(node)!;
      const value = values[index]!;
      for (let place = from; place < to; place += 1) score[order[place]!]! += value;
    });
    return Promise.resolve();
  }

  vote(splits: readonly AppliedSplit[], nodes: readonly number[], values: readonly (readonly number[])[]): Promise<void> {
    this.apply(splits);
    const { state } = this;
    if (state!.votes.trees.length === 0) {
      this.state = { ...state!, votes: { sums: state!.votes.sums.map(() => new Float64Array(this.data.rows)), trees: new Uint16Array(this.data.rows) } };
    }
    const { votes, arrays } = this.now;
    nodes.forEach((node, index) => {
      const { from, to } = this.ranges.get(node)!;
      for (let place = from; place < to; place += 1) {
        if (arrays.counts[place]! > 0) continue;
        const row = arrays.order[place]!;
        votes.trees[row]! += 1;
        votes.sums.forEach((sums, output) => { sums[row]! += values[index]![output]!; });
      }
    });
    return Promise.resolve();
  }

  losses(): Promise<{ training: number; validation?: number }> {
    const { start, scores, validation } = this.now;
    const { rows, target, weight } = this.data;
    const shares = new Float64Array(start.outputs);
    const each = new Float64Array(start.outputs);
    const sums = [0, 0];
    const weights = [0, 0];
    for (let row = 0; row < rows; row += 1) {
      const side = validation?.[row] ?? 0;
      const times = weight === undefined ? 1 : weight[row]!;
      for (let output = 0; output < start.outputs; output += 1) each[output] = scores[output]![row]!;
      sums[side]! += times * lossAt(start.loss, target[row]!, each, start.outputs, shares);
      weights[side]! += times;
    }
    return Promise.resolve({ training: sums[0]! / weights[0]!, ...(validation ? { validation: sums[1]! / weights[1]! } : {}) });
  }

  outOfBag(): Promise<{ loss: number; rows: number }> {
    const { votes, start } = this.now;
    const { target, weight } = this.data;
    let loss = 0;
    let total = 0;
    let rows = 0;
    votes.trees.forEach((trees, row) => {
      if (trees === 0) return;
      const times = weight === undefined ? 1 : weight[row]!;
      const y = target[row]!;
      rows += 1;
      total += times;
      const share = (output: number): number => votes.sums[output]![row]! / trees;
      loss += times * (start.loss === "gini" ? -Math.log(Math.max(share(y), 1e-15)) : this.task.kind === "binary" ? -Math.log(Math.max(y === 1 ? share(0) : 1 - share(0), 1e-15)) : (y - share(0)) ** 2);
    });
    return Promise.resolve({ loss: loss / total, rows });
  }

  end(): Promise<void> {
    this.state = undefined;
    this.answers = new Float64Array(shared(0));
    return Promise.resolve();
  }
}

/** For each bin of a column, whether it goes left. */
export function leftBins(split: AppliedSplit, bins: number): Uint8Array {
  const goes = new Uint8Array(bins);
  if (split.lastBin !== undefined) goes.fill(1, 1, split.lastBin + 1);
  for (const code of split.codes ?? []) goes[code] = 1;
  goes[0] = split.missingLeft ? 1 : 0;
  return goes;
}
