import type { Design } from "../linear/design";
import type { DrawnPart, FrameQuestions, FrameSummary, LinearLoss, Scope } from "../questions";
import type { Task } from "../task";
import type { ColumnData } from "./column-data";
import { selectRows } from "./column-data";
import type { TreeBlocks } from "./blocks";
import { classSlopeOf, curvatureOf, marginCountsOf, slopeOf } from "./linear";
import { classTablesOf, latestOf, medianOf, summaryOf } from "./tables";
import { MemoryTrees } from "./trees";

/** Answers a learner's questions over rows that were streamed into memory. */
export class MemoryFrame implements FrameQuestions {
  readonly engine = "streaming";
  readonly trees: MemoryTrees;
  private sample: ColumnData;
  private summarised: FrameSummary | undefined;

  /** @param ownWeight the file's weights, when others have been multiplied in */
  constructor(
    readonly task: Task,
    readonly columns: ColumnData,
    private readonly team?: TreeBlocks,
    private readonly ownWeight = columns.weight,
  ) {
    this.sample = columns;
    this.trees = new MemoryTrees(columns, task, team);
  }

  numbersOut(): number {
    return 0;
  }

  summary() {
    this.summarised ??= summaryOf(this.columns, this.task, this.ownWeight);
    return Promise.resolve(this.summarised);
  }

  drawSample(_design: Design, rows: number, total: number): Promise<number> {
    const share = total <= rows ? 1 : rows / total;
    this.sample =
      share >= 1 ? this.columns : selectRows(this.columns, (row) => this.columns.draw[row]! < share);
    return Promise.resolve(this.sample.rows);
  }

  private asked(scope: Scope): ColumnData {
    return scope === "sample" ? this.sample : this.columns;
  }

  slope(design: Design, coefficients: Float64Array, loss: LinearLoss, scope: Scope) {
    return Promise.resolve(slopeOf(this.asked(scope), design, coefficients, loss));
  }

  curvature(design: Design, coefficients: Float64Array, loss: LinearLoss, scope: Scope) {
    return Promise.resolve(curvatureOf(this.asked(scope), design, coefficients, loss));
  }

  classSlope(design: Design, coefficients: Float64Array, scope: Scope) {
    return Promise.resolve(
      classSlopeOf(this.asked(scope), design, coefficients, coefficients.length / design.terms.length),
    );
  }

  classTables() {
    return Promise.resolve(classTablesOf(this.columns, this.task));
  }

  marginCounts(design: Design, coefficients: Float64Array) {
    return Promise.resolve(marginCountsOf(this.columns, design, coefficients));
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
      this.team,
    );
  }

  balanced(weights: readonly number[]): FrameQuestions {
    const { target, weight } = this.columns;
    const multiplied = Float64Array.from(
      target,
      (code, row) => (weights[code] ?? 0) * (weight === undefined ? 1 : weight[row]!),
    );
    return new MemoryFrame(this.task, { ...this.columns, weight: multiplied }, this.team, this.ownWeight);
  }
}
