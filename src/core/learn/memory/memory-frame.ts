import type { Design } from "../linear/design";
import type { DrawnPart, FrameQuestions, FrameSummary, LinearLoss, Scope } from "../questions";
import type { Task } from "../task";
import type { ColumnData } from "./column-data";
import { selectRows } from "./column-data";
import type { TreeBlocks } from "./blocks";
import { classSlopeOf, curvatureOf, marginCountsOf, slopeOf, type DesignRows } from "./linear";
import type { Breathe } from "./predictor";
import { classTablesOf, latestOf, medianOf, summaryOf } from "./tables";
import { MemoryTrees } from "./trees";

/** Who shares the work on rows in memory, and how it gives way. */
export interface MemoryOptions {
  readonly team?: TreeBlocks | undefined;
  /** Called between pieces of a computation over all rows. */
  readonly breathe?: Breathe | undefined;
  /** The file's weights, when others have been multiplied into those of the rows. */
  readonly ownWeight?: Float64Array | undefined;
}

/** Answers a learner's questions over rows that were streamed into memory. */
export class MemoryFrame implements FrameQuestions {
  readonly engine = "streaming";
  readonly trees: MemoryTrees;
  private sample: ColumnData;
  private summarised: Promise<FrameSummary> | undefined;
  private readonly breathe: Breathe;

  constructor(
    readonly task: Task,
    readonly columns: ColumnData,
    private readonly options: MemoryOptions = {},
  ) {
    this.sample = columns;
    this.breathe = options.breathe ?? (() => Promise.resolve());
    this.trees = new MemoryTrees(columns, task, options.team);
  }

  numbersOut(): number {
    return 0;
  }

  summary(): Promise<FrameSummary> {
    const { columns, task, breathe } = this;
    this.summarised ??= summaryOf(columns, task, this.options.ownWeight ?? columns.weight, breathe);
    return this.summarised;
  }

  drawSample(_design: Design, rows: number, total: number): Promise<number> {
    const share = total <= rows ? 1 : rows / total;
    this.sample =
      share >= 1 ? this.columns : selectRows(this.columns, (row) => this.columns.draw[row]! < share);
    return Promise.resolve(this.sample.rows);
  }

  private asked(design: Design, scope: Scope): DesignRows {
    return { data: scope === "sample" ? this.sample : this.columns, design, breathe: this.breathe };
  }

  slope(design: Design, coefficients: Float64Array, loss: LinearLoss, scope: Scope) {
    return slopeOf(this.asked(design, scope), coefficients, loss);
  }

  curvature(design: Design, coefficients: Float64Array, loss: LinearLoss, scope: Scope) {
    return curvatureOf(this.asked(design, scope), coefficients, loss);
  }

  classSlope(design: Design, coefficients: Float64Array, scope: Scope) {
    return classSlopeOf(this.asked(design, scope), coefficients, coefficients.length / design.terms.length);
  }

  classTables() {
    return classTablesOf(this.columns, this.task, this.breathe);
  }

  marginCounts(design: Design, coefficients: Float64Array) {
    return marginCountsOf(this.asked(design, "all"), coefficients);
  }

  targetMedian(): Promise<number> {
    return Promise.resolve(medianOf(this.columns.target, this.columns.weight));
  }

  latestTarget(): Promise<number | undefined> {
    const found = latestOf(this.columns);
    return Promise.resolve(found && (this.task.kind === "number" ? found.mean : found.first));
  }

  part({ of, part, inside }: DrawnPart): FrameQuestions {
    const { draw } = this.columns;
    return new MemoryFrame(
      this.task,
      selectRows(this.columns, (row) => (Math.floor(draw[row]! * of) === part) === inside),
      { team: this.options.team, breathe: this.breathe },
    );
  }

  balanced(weights: readonly number[]): FrameQuestions {
    const { target, weight } = this.columns;
    const multiplied = Float64Array.from(
      target,
      (code, row) => (weights[code] ?? 0) * (weight === undefined ? 1 : weight[row]!),
    );
    return new MemoryFrame(
      this.task,
      { ...this.columns, weight: multiplied },
      { ...this.options, ownWeight: this.options.ownWeight ?? weight },
    );
  }
}
