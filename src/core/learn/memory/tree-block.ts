import { mix, poissonCount } from "../../numeric/random";
import { bitsOf, curvatureScale, gradientScale } from "../trees/exact";
import type { AppliedSplit, HeldRows, HistogramRequest, RowSample } from "../trees/tree-questions";
import {
  fillBins,
  layOutBlock,
  NARROW,
  STATISTICS,
  type BlockData,
  type BlockLayout,
  type BlockStart,
} from "./block-layout";
import { openKernels, Stretches, type TreeKernels } from "./kernels/open-kernels";
import { logisticSlopes, slopesInto, type LossSums, type SlopeRows, type Slopes } from "./losses";
import { OutOfBagVotes } from "./out-of-bag-votes";

/** The stratum of a target. */
export const stratumOf = (cuts: readonly number[], value: number): number =>
  cuts.reduce((stratum, cut) => (value >= cut ? stratum + 1 : stratum), 0);

/** The number of a row in [0, 1) by which it is drawn. */
export const numberOf = (draw: number, seed: number): number => mix(draw * 4294967296, seed) / 4294967296;

/** 1 for rows that are held apart. */
function heldRows({ seed, cuts, bounds }: HeldRows, target: Float64Array, draw: Float64Array): Uint8Array {
  return Uint8Array.from(draw, (value, row) => {
    const [from, to] = bounds[stratumOf(cuts, target[row]!)]!;
    const number = numberOf(value, seed);
    return number >= from && number < to ? 1 : 0;
  });
}

interface State extends BlockLayout {
  readonly start: BlockStart;
  readonly apart: Uint8Array | undefined;
  readonly votes: OutOfBagVotes;
}

/**
 * Answers the questions of trees over its own rows. Everything it answers is a sum, or a list to be put together, so that several
 * blocks in several threads answer as one.
 */
export class TreeBlock {
  private readonly kernels: TreeKernels = openKernels();
  private state: State | undefined;
  private ranges = new Map<number, { readonly from: number; readonly to: number }>();
  private scales = { gradient: 1, curvature: 1 };
  private applied = 0;

  constructor(private readonly data: BlockData) {}

  private get now(): State {
    if (!this.state) throw new Error("begin() comes first");
    return this.state;
  }

  private doubles(at: number, length = this.data.rows): Float64Array {
    return new Float64Array(this.kernels.memory.buffer, at, length);
  }

  private bytes(at: number, length = this.data.rows): Uint8Array {
    return new Uint8Array(this.kernels.memory.buffer, at, length);
  }

  /** The values present in each number column, ascending, of the rows whose random number is below a share. */
  sorted(share: number): readonly Float64Array[] {
    const { rows, draw, numbers } = this.data;
    const places = new Uint32Array(rows);
    let count = 0;
    for (let row = 0; row < rows; row += 1) if (draw[row]! < share) places[count++] = row;
    return numbers.map((values) => {
      const picked = new Float64Array(count);
      let present = 0;
      for (let index = 0; index < count; index += 1) {
        const value = values[places[index]!]!;
        if (value === value) picked[present++] = value;
      }
      return picked.subarray(0, present).sort().slice();
    });
  }

  begin(start: BlockStart): void {
    const { rows, draw, target, weight } = this.data;
    const layout = layOutBlock(this.data, start, new Stretches(this.kernels.memory));
    this.state = {
      ...layout,
      start,
      apart: start.held ? heldRows(start.held, target, draw) : undefined,
      votes: new OutOfBagVotes(rows, start.loss === "gini" ? start.classes : 1),
    };
    const { at } = layout;
    fillBins(this.kernels.memory.buffer, this.data, layout, start.cuts);
    this.doubles(at.target).set(target);
    if (weight) this.doubles(at.weight).set(weight);
    this.state.scoresAt.forEach((address, output) => this.doubles(address).fill(start.start[output]!));
    if (start.loss === "gini") new Uint16Array(this.kernels.memory.buffer, at.classes, rows).set(target);
    this.scales = {
      gradient: gradientScale(start.allRows, start.heaviest),
      curvature: curvatureScale(start.allRows, start.totalWeight, start.loss),
    };
  }

  /** Computes gradients at the scores so far. @returns losses by chunk, and the largest gradient */
  slopes(): LossSums & { readonly most: number } {
    const { start, at, scoresAt, gradientsAt, curvaturesAt, apart } = this.now;
    const views = (addresses: readonly number[]): Float64Array[] =>
      addresses.map((address) => this.doubles(address));
    const slopes: Slopes = { gradients: views(gradientsAt), curvatures: views(curvaturesAt) };
    const rows: SlopeRows = {
      target: this.doubles(at.target),
      weight: this.data.weight && this.doubles(at.weight),
      scores: views(scoresAt),
      apart,
    };
    const sums =
      start.loss === "logistic"
        ? logisticSlopes(this.kernels, rows, slopes, at.scratch)
        : slopesInto(start.loss, rows, slopes);
    let most = 0;
    if (start.loss === "squared")
      for (const value of slopes.gradients[0]!) most = Math.max(most, Math.abs(value));
    return { ...sums, most };
  }

  /** Begins a tree. @param most largest gradient of all rows, where it decides the scale @returns sums over the rows that take part */
  grow(output: number, sample: RowSample, most: number): Float64Array {
    const { rows, draw } = this.data;
    const { start, statistics, stride, at, apart, gradientsAt, curvaturesAt } = this.now;
    const counts = this.bytes(at.counts);
    if (start.loss === "squared")
      this.scales = { ...this.scales, gradient: gradientScale(start.allRows, most) };
    if (sample.kind === "all") counts.fill(1);
    else
      for (let row = 0; row < rows; row += 1) {
        const drawn = mix(draw[row]! * 4294967296, sample.seed) / 4294967296;
        counts[row] = sample.kind === "share" ? Number(drawn < sample.share) : poissonCount(drawn);
      }
    if (apart) for (let row = 0; row < rows; row += 1) if (apart[row] === 1) counts[row] = 0;
    const { kernels, scales } = this;
    this.ranges = new Map([[0, { from: 0, to: rows }]]);
    this.applied = 0;
    if (start.loss === "gini") {
      kernels.packClasses(
        rows,
        at.order,
        at.records,
        stride,
        gradientsAt[output]!,
        at.classes,
        at.counts,
        scales.gradient,
        statistics,
        at.histogram,
      );
      kernels.unpackClasses(1, at.histogram, at.unpacked, statistics, 1 / scales.gradient);
    } else {
      kernels.pack(
        rows,
        at.order,
        at.records,
        stride,
        gradientsAt[output]!,
        curvaturesAt[output]!,
        at.counts,
        scales.gradient,
        scales.curvature,
        this.countBits,
        at.histogram,
      );
      kernels.unpack(1, at.histogram, at.unpacked, 1 / scales.gradient, 1 / scales.curvature, this.countBits);
    }
    return this.doubles(at.unpacked, statistics).slice();
  }

  private get countBits(): number {
    return bitsOf(this.now.start.allRows);
  }

  /** Puts the rows of split nodes side by side: those that go left first, each side in its earlier order. */
  private apply(splits: readonly AppliedSplit[]): void {
    const { at, columns } = this.now;
    for (const split of splits.slice(this.applied)) {
      const { from, to } = this.ranges.get(split.node)!;
      const place = columns[split.column]!;
      this.bytes(at.goes, place.bins).set(leftBins(split, place.bins));
      const middle = this.kernels[place.wide ? "partitionWide" : "partitionNarrow"](
        at.order,
        from,
        to,
        place.at,
        at.goes,
        at.spare,
      );
      this.ranges.set(split.left, { from, to: middle });
      this.ranges.set(split.right, { from: middle, to });
    }
    this.applied = splits.length;
  }

  /** Histograms of nodes, one after the other into `answers`: of each requested column its bins times statistics. */
  histograms(
    splits: readonly AppliedSplit[],
    wanted: readonly HistogramRequest[],
    answers: Float64Array,
  ): void {
    this.apply(splits);
    let done = 0;
    for (const { node, columns } of wanted) done = this.histogram(node, columns, answers, done);
  }

  private histogram(node: number, asked: readonly number[], answers: Float64Array, begin: number): number {
    const { kernels, scales } = this;
    const { at, columns, narrow, stride, statistics, start } = this.now;
    const { from, to } = this.ranges.get(node)!;
    const gini = start.loss === "gini";
    const bytes = gini ? 8 * statistics : STATISTICS;
    // When every narrow column is asked for they are read four at a time, each with 256 places whatever its bins.
    const narrowAsked = asked.filter((column) => !columns[column]!.wide);
    const wideAsked = asked.filter((column) => columns[column]!.wide);
    const fours =
      !gini &&
      narrowAsked.length > 0 &&
      narrowAsked.length === columns.filter((column) => !column.wide).length;
    let places = fours ? narrow * NARROW : 0;
    const offsets = new Map(
      asked.map((column) => {
        const { wide, position, bins } = columns[column]!;
        if (fours && !wide) return [column, (position - STATISTICS) * NARROW];
        places += bins;
        return [column, places - bins];
      }),
    );
    this.bytes(at.histogram, places * bytes).fill(0);
    if (fours) kernels.addFours(at.order, from, to, at.records, stride, narrow, at.histogram);
    for (const listed of [fours ? [] : narrowAsked, wideAsked]) {
      if (listed.length === 0) continue;
      new Uint32Array(kernels.memory.buffer, at.list, 2 * listed.length).set(
        listed.flatMap((column) => [columns[column]!.position, offsets.get(column)! * bytes]),
      );
      const wide = listed === wideAsked;
      if (gini)
        kernels[wide ? "addClassesWide" : "addClassesNarrow"](
          at.order,
          from,
          to,
          at.records,
          stride,
          at.list,
          listed.length,
          at.histogram,
          statistics,
        );
      else
        kernels[wide ? "addWide" : "addNarrow"](
          at.order,
          from,
          to,
          at.records,
          stride,
          at.list,
          listed.length,
          at.histogram,
        );
    }
    if (gini) kernels.unpackClasses(places, at.histogram, at.unpacked, statistics, 1 / scales.gradient);
    else
      kernels.unpack(
        places,
        at.histogram,
        at.unpacked,
        1 / scales.gradient,
        1 / scales.curvature,
        this.countBits,
      );
    const unpacked = this.doubles(at.unpacked, places * statistics);
    let done = begin;
    for (const column of asked) {
      const offset = offsets.get(column)! * statistics;
      const size = columns[column]!.bins * statistics;
      answers.set(unpacked.subarray(offset, offset + size), done);
      done += size;
    }
    return done;
  }

  /** What is left of the target at the rows of each node that take part, and their weights. */
  rest(
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
  ): readonly { readonly values: Float64Array; readonly weights: Float64Array | undefined }[] {
    this.apply(splits);
    const { at, scoresAt } = this.now;
    const { target, weight } = this.data;
    const order = new Uint32Array(this.kernels.memory.buffer, at.order, this.data.rows);
    const counts = this.bytes(at.counts);
    const score = this.doubles(scoresAt[0]!);
    return nodes.map((node) => {
      const { from, to } = this.ranges.get(node)!;
      const rows = order.slice(from, to).filter((row) => counts[row]! > 0);
      return {
        values: Float64Array.from(rows, (row) => target[row]! - score[row]!),
        weights: weight && Float64Array.from(rows, (row) => weight[row]!),
      };
    });
  }

  add(
    output: number,
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly number[],
  ): void {
    this.apply(splits);
    const { at, scoresAt } = this.now;
    nodes.forEach((node, index) => {
      const { from, to } = this.ranges.get(node)!;
      this.kernels.addValue(at.order, from, to, scoresAt[output]!, values[index]!);
    });
  }

  vote(
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly (readonly number[])[],
  ): void {
    this.apply(splits);
    const { votes, at } = this.now;
    const order = new Uint32Array(this.kernels.memory.buffer, at.order, this.data.rows);
    const counts = this.bytes(at.counts);
    nodes.forEach((node, index) => {
      const { from, to } = this.ranges.get(node)!;
      for (let place = from; place < to; place += 1)
        if (counts[order[place]!] === 0) votes.add(order[place]!, values[index]!);
    });
  }

  /** Losses of the mean vote, and weights, by chunk; and the rows that have votes. */
  outOfBag(binary: boolean): ReturnType<OutOfBagVotes["losses"]> {
    const { votes, start } = this.now;
    const single = binary ? "binary" : "number";
    return votes.losses(this.data.target, this.data.weight, start.loss === "gini" ? "classes" : single);
  }
}

/** For each bin of a column, whether it goes left. */
function leftBins(split: AppliedSplit, bins: number): Uint8Array {
  const goes = new Uint8Array(bins);
  if (split.lastBin !== undefined) goes.fill(1, 1, split.lastBin + 1);
  for (const code of split.codes ?? []) goes[code] = 1;
  goes[0] = split.missingLeft ? 1 : 0;
  return goes;
}
