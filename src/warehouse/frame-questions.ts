import { countValues } from "@/core/evaluate/leaving";
import { binary, call, column, double, integer, type Expression } from "@/core/expression/ast";
import { columnsOf } from "@/core/expression/visit";
import type { Design } from "@/core/learn/linear/design";
import type { DrawnPart, FrameQuestions, FrameSummary, LinearLoss, Scope } from "@/core/learn/questions";
import { classCount, type Task } from "@/core/learn/task";
import type { CategoryLevels } from "@/core/plan/frame";
import { MOMENT_COLUMN, TARGET_COLUMN, WEIGHT_COLUMN } from "@/core/plan/frame-columns";
import { classSlopeQuestions } from "@/core/questions/frame/class-slope";
import {
  levelClassesQuestion,
  momentsQuestions,
  type ColumnMoments,
} from "@/core/questions/frame/class-tables";
import { curvatureOf, curvatureQuestions } from "@/core/questions/frame/curvature";
import { weightOf, type FrameRows } from "@/core/questions/frame/frame-rows";
import { latestQuestion, medianQuestion } from "@/core/questions/frame/order";
import { marginsQuestion, sampleColumns, sampleRows } from "@/core/questions/frame/predictor";
import { slopeOf, slopeQuestions } from "@/core/questions/frame/slope";
import {
  classesQuestion,
  FEW_CLASSES,
  levelsQuestion,
  summaryQuestions,
} from "@/core/questions/frame/summary";
import type { Question } from "@/core/questions/question";
import { filter, table, type Relation, type TableReference } from "@/core/relation/relation";
import { DRAW_COLUMN } from "@/core/steps/step";
import { WarehouseTrees } from "./tree-questions";
import type { WarehouseSession } from "./port/session";

/** A training frame in the warehouse, and the scratch tables that questions about it may use. */
export interface WarehouseFrameTables {
  readonly frame: TableReference;
  /** Where the fixed sample is kept. Whoever drops the frame drops this and {@link states} too. */
  readonly sample: TableReference;
  /** Where trees keep their state. */
  readonly states: readonly [TableReference, TableReference];
  readonly numbers: readonly string[];
  readonly categories: readonly CategoryLevels[];
  readonly task: Task;
  /** Condition for the rows that are learned from. */
  readonly condition: Expression;
  /** Whether the frame has row weights. */
  readonly weighted: boolean;
  /** Whether the frame has the time of each row. */
  readonly timed: boolean;
  readonly balance?: readonly number[];
}

/** The rows of a frame that are learned from. */
function frameRows(tables: WarehouseFrameTables): Relation {
  const { frame, numbers, categories, condition, weighted, timed } = tables;
  const names = [
    ...[TARGET_COLUMN, DRAW_COLUMN],
    ...columnsOf(condition),
    ...(weighted ? [WEIGHT_COLUMN] : []),
    ...(timed ? [MOMENT_COLUMN] : []),
    ...numbers,
    ...categories.map((category) => category.column),
  ];
  return filter(table(frame, [...new Set(names)]), condition);
}

/**
 * Answers a learner's questions by relations over a frame in the warehouse. No row comes out; the numbers that do
 * are counted.
 */
export class WarehouseFrame implements FrameQuestions {
  readonly engine = "warehouse";
  readonly trees: WarehouseTrees;
  private readonly frame: FrameRows;
  /** Asked for by several, and the same as long as the frame is. */
  private summarised: Promise<FrameSummary> | undefined;

  constructor(
    private readonly session: WarehouseSession,
    private readonly tables: WarehouseFrameTables,
    private readonly counter = { out: 0 },
  ) {
    this.frame = {
      rows: frameRows(tables),
      weight: weightOf(tables.weighted, tables.balance),
      scaled: false,
    };
    this.trees = new WarehouseTrees(session, (question) => this.ask(question), this.frame, tables);
  }

  get task(): Task {
    return this.tables.task;
  }

  numbersOut(): number {
    return this.counter.out;
  }

  private ask<Answer>(question: Question<Answer>): Promise<Answer> {
    return this.session.ask({
      ...question,
      read: (rows) => {
        this.counter.out += countValues(rows);
        return question.read(rows);
      },
    });
  }

  private async askAll<Answer>(questions: readonly Question<Answer>[]): Promise<readonly Answer[]> {
    const answers: Answer[] = [];
    for (const question of questions) answers.push(await this.ask(question));
    return answers;
  }

  summary(): Promise<FrameSummary> {
    this.summarised ??= this.summarise();
    return this.summarised;
  }

  private async summarise(): Promise<FrameSummary> {
    const { numbers, categories, task, weighted } = this.tables;
    const classes = classCount(task);
    const parts = await this.askAll(summaryQuestions(this.frame, numbers, weighted, classes));
    const totals = parts.find((part) => part.totals)?.totals;
    if (!totals) throw new Error("no totals were answered");
    const found = [];
    for (const { column, levels } of categories)
      found.push({ column, ...(await this.ask(levelsQuestion(this.frame, column, levels.length))) });
    return {
      ...totals,
      categories: found,
      classes:
        classes > FEW_CLASSES
          ? await this.ask(classesQuestion(this.frame, classes))
          : parts.flatMap((part) => part.classes),
      numbers: parts
        .flatMap((part) => part.numbers)
        .map(({ present, ...moments }) => ({ ...moments, missing: totals.rows - present })),
    };
  }

  async drawSample(design: Design, wanted: number, total: number): Promise<number> {
    const share = total <= wanted ? 1 : wanted / total;
    const { sample } = this.tables;
    await this.session.drop(sample, "remove an earlier sample");
    const rows = await this.session.materialize(
      sampleRows(this.frame, design, share),
      sample,
      share === 1 ? "copy the rows in the warehouse, scaled" : "draw the sample in the warehouse",
    );
    // The number of rows has come out as well.
    this.counter.out += 1;
    return rows;
  }

  private at(scope: Scope, design: Design): FrameRows {
    if (scope === "all") return this.frame;
    const weighted = this.frame.weight !== undefined;
    return {
      rows: table(this.tables.sample, sampleColumns(design, weighted)),
      weight: weighted ? column(WEIGHT_COLUMN) : undefined,
      scaled: true,
    };
  }

  async slope(design: Design, coefficients: Float64Array, loss: LinearLoss, scope: Scope) {
    const frame = this.at(scope, design);
    const purpose =
      scope === "sample" ? "loss and gradient over the sample" : "loss and gradient over all rows";
    const questions = slopeQuestions(frame, design, coefficients, { loss, purpose });
    return slopeOf(design, frame.scaled, await this.askAll(questions));
  }

  async curvature(design: Design, coefficients: Float64Array, loss: LinearLoss, scope: Scope) {
    const purpose = scope === "sample" ? "curvature over the sample" : "curvature over all rows";
    const questions = curvatureQuestions(this.at(scope, design), design, coefficients, { loss, purpose });
    return curvatureOf(design, await this.askAll(questions));
  }

  async classSlope(design: Design, coefficients: Float64Array, scope: Scope) {
    const frame = this.at(scope, design);
    const parts = await this.askAll(classSlopeQuestions(frame, design, coefficients));
    return slopeOf(design, frame.scaled, parts, coefficients.length / design.terms.length);
  }

  async classTables() {
    const { numbers, categories, task } = this.tables;
    const classes = classCount(task);
    const moments: ColumnMoments = new Map(
      (await this.askAll(momentsQuestions(this.frame, numbers))).flatMap((part) => [...part]),
    );
    const tables = [];
    for (const { column, levels } of categories) {
      const question = levelClassesQuestion(this.frame, column, levels.length, classes);
      tables.push({ column, counts: await this.ask(question) });
    }
    const none = { weight: 0, mean: Number.NaN, squares: 0, sum: 0 };
    return {
      categories: tables,
      numbers: numbers.map((column) => ({
        column,
        byClass: Array.from({ length: classes }, (_, code) => moments.get(column)?.get(code) ?? none),
      })),
    };
  }

  marginCounts(design: Design, coefficients: Float64Array) {
    return this.ask(marginsQuestion(this.frame, design, coefficients));
  }

  targetMedian(): Promise<number> {
    return this.ask(medianQuestion(this.frame));
  }

  async latestTarget(): Promise<number | undefined> {
    if (!this.tables.timed) return undefined;
    const { mean, smallest } = await this.ask(latestQuestion(this.frame, MOMENT_COLUMN));
    return this.task.kind === "number" ? mean : smallest;
  }

  part({ of, part, inside }: DrawnPart): FrameQuestions {
    const place = call("floor", binary(column(DRAW_COLUMN), "*", double(of)));
    const isInPart = binary(place, inside ? "=" : "<>", integer(part));
    const condition = binary(this.tables.condition, "and", isInPart);
    return new WarehouseFrame(this.session, { ...this.tables, condition }, this.counter);
  }

  balanced(weights: readonly number[]): FrameQuestions {
    return new WarehouseFrame(this.session, { ...this.tables, balance: weights }, this.counter);
  }
}
