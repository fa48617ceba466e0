import { countValues } from "@/core/evaluate/leaving";
import type { Design } from "@/core/learn/linear/design";
import type { CategoryLevels } from "@/core/plan/frame";
import { MOMENT_COLUMN } from "@/core/plan/frame-columns";
import type {
  ClassTables,
  DrawnPart,
  FrameQuestions,
  FrameSummary,
  LinearLoss,
  Scope,
} from "@/core/learn/questions";
import { readClassSlope, readCurvature, readSlope, type AnswerRow } from "@/core/learn/sql/answers";
import { classSlopeSql } from "@/core/learn/sql/class-slope-sql";
import { marginsSql, sampleSql } from "@/core/learn/sql/predictor";
import { curvatureSql, slopeSql } from "@/core/learn/sql/slope-sql";
import { weightOf, type FrameSource, WEIGHT } from "@/core/learn/sql/source";
import {
  classesSql,
  FEW_CLASSES,
  latestSql,
  levelClassesSql,
  levelsSql,
  medianSql,
  momentsSql,
  summarySql,
} from "@/core/learn/sql/summary-sql";
import { classCount, type Task } from "@/core/learn/task";
import { quoteDouble, quoteIdentifier } from "@/core/sql/quote";
import { DRAW_COLUMN } from "@/core/steps/step";
import { WarehouseTrees } from "./tree-questions";
import type { WarehouseSession } from "./warehouse";

export interface AskedFrame {
  /** Quoted names: of the frame, of the table that the fixed sample is kept in, and of two that trees keep their state in. Whoever drops the frame drops them too. */
  readonly frame: string;
  readonly sample: string;
  readonly states: readonly [string, string];
  readonly numbers: readonly string[];
  readonly categories: readonly CategoryLevels[];
  readonly task: Task;
  /** Condition for the rows that are learned from. */
  readonly where: string;
  /** Whether the frame has row weights. */
  readonly weighted: boolean;
  /** Whether the frame has the time of each row. */
  readonly timed: boolean;
  readonly balance?: readonly number[];
}

/** Answers a learner's questions by statements over a frame in the warehouse. No row comes out; the numbers that do are counted. */
export class WarehouseFrame implements FrameQuestions {
  readonly engine = "warehouse";
  readonly trees: WarehouseTrees;
  private readonly source: FrameSource;
  /** Asked for by several, and the same as long as the frame is. */
  private summarised: Promise<FrameSummary> | undefined;

  constructor(
    private readonly session: WarehouseSession,
    private readonly asked: AskedFrame,
    private readonly counter = { out: 0 },
  ) {
    this.source = {
      table: asked.frame,
      where: asked.where,
      weight: weightOf(asked.weighted, asked.balance),
      scaled: false,
    };
    this.trees = new WarehouseTrees(
      (sql, purpose) => this.ask(sql, purpose),
      (sql, purpose) => this.run(sql, purpose),
      this.source,
      asked,
    );
  }

  get task(): Task {
    return this.asked.task;
  }

  numbersOut(): number {
    return this.counter.out;
  }

  private async run(sql: string, purpose: string): Promise<void> {
    await this.session.run(sql, purpose);
  }

  private async ask(sql: string, purpose: string): Promise<readonly AnswerRow[]> {
    const rows = (await this.session.run(sql, purpose)) as readonly AnswerRow[];
    this.counter.out += countValues(rows);
    return rows;
  }

  private async all(
    statements: readonly string[],
    purpose: string,
  ): Promise<readonly (readonly AnswerRow[])[]> {
    const answers: (readonly AnswerRow[])[] = [];
    for (const sql of statements) answers.push(await this.ask(sql, purpose));
    return answers;
  }

  summary(): Promise<FrameSummary> {
    this.summarised ??= this.summarise();
    return this.summarised;
  }

  private async summarise(): Promise<FrameSummary> {
    const { numbers, categories, task, weighted } = this.asked;
    const count = classCount(task);
    const answers: AnswerRow = Object.assign(
      {},
      ...(
        await this.all(
          summarySql(this.source, numbers, weighted, count),
          "count rows; mean and spread of each number",
        )
      ).flat(),
    ) as AnswerRow;
    const rows = answers["rows"] ?? 0;
    const classes =
      count > FEW_CLASSES
        ? await this.ask(classesSql(this.source), "rows of each class")
        : Array.from({ length: count }, (_, code) => ({
            code,
            rows: answers[`c${code}`] ?? 0,
            weight: answers[`w${code}`] ?? 0,
          }));
    const found = [];
    for (const category of categories) {
      const byCode = new Map(
        (await this.ask(levelsSql(this.source, category.column), `rows of each ${category.column}`)).map(
          (row) => [row["code"], row],
        ),
      );
      found.push({
        column: category.column,
        rows: category.levels.map((_, index) => byCode.get(index + 1)?.["rows"] ?? 0),
        sums: category.levels.map((_, index) => byCode.get(index + 1)?.["sum"] ?? 0),
      });
    }
    return {
      rows,
      unanswered: answers["unanswered"] ?? 0,
      weight: answers["weight"] ?? 0,
      badWeights: answers["bad"] ?? 0,
      categories: found,
      target: {
        mean: answers["mean"] ?? Number.NaN,
        deviation: answers["deviation"] ?? Number.NaN,
        smallest: answers["smallest"] ?? Infinity,
        largest: answers["largest"] ?? -Infinity,
      },
      classes: Array.from({ length: classCount(task) }, (_, code) => {
        const row = classes.find((oneClass) => oneClass["code"] === code);
        return { rows: row?.["rows"] ?? 0, weight: row?.["weight"] ?? 0 };
      }),
      numbers: numbers.map((column, index) => ({
        column,
        missing: rows - (answers[`n${index}`] ?? 0),
        mean: answers[`m${index}`] ?? Number.NaN,
        deviation: answers[`d${index}`] ?? Number.NaN,
        varies: answers[`v${index}`] === 1,
      })),
    };
  }

  async drawSample(design: Design, wanted: number, total: number): Promise<number> {
    const share = total <= wanted ? 1 : wanted / total;
    await this.run(`DROP TABLE IF EXISTS ${this.asked.sample}`, "remove an earlier sample");
    await this.run(
      sampleSql(this.source, this.asked.sample, design, share),
      share === 1 ? "copy the rows in the warehouse, scaled" : "draw the sample in the warehouse",
    );
    const [row] = await this.ask(
      `SELECT count(*)::double precision AS rows FROM ${this.asked.sample}`,
      "size of the sample",
    );
    return row?.["rows"] ?? 0;
  }

  private at(scope: Scope): FrameSource {
    return scope === "sample"
      ? {
          table: this.asked.sample,
          where: "",
          weight: this.source.weight === undefined ? undefined : WEIGHT,
          scaled: true,
        }
      : this.source;
  }

  async slope(design: Design, coefficients: Float64Array, loss: LinearLoss, scope: Scope) {
    const source = this.at(scope);
    const statements = slopeSql(source, design, coefficients, loss);
    return readSlope(
      design,
      source.scaled,
      statements,
      await this.all(
        statements.map((statement) => statement.sql),
        scope === "sample" ? "loss and gradient over the sample" : "loss and gradient over all rows",
      ),
    );
  }

  async curvature(design: Design, coefficients: Float64Array, loss: LinearLoss, scope: Scope) {
    const statements = curvatureSql(this.at(scope), design, coefficients, loss);
    return readCurvature(
      design,
      statements,
      await this.all(
        statements.map((statement) => statement.sql),
        scope === "sample" ? "curvature over the sample" : "curvature over all rows",
      ),
    );
  }

  async classSlope(design: Design, coefficients: Float64Array, scope: Scope) {
    const source = this.at(scope);
    const outputs = coefficients.length / design.terms.length;
    const statements = classSlopeSql(source, design, coefficients, outputs);
    return readClassSlope(
      design,
      source.scaled,
      outputs,
      statements,
      await this.all(
        statements.map((statement) => statement.sql),
        "loss and gradient of every class",
      ),
    );
  }

  async classTables(): Promise<ClassTables> {
    const { numbers, categories, task } = this.asked;
    const classes = classCount(task);
    const answers = new Map<number, AnswerRow>();
    for (const rows of await this.all(
      momentsSql(this.source, numbers),
      "mean and spread of each number within each class",
    )) {
      for (const row of rows)
        if (row["code"] !== null && row["code"] !== undefined)
          answers.set(row["code"], { ...answers.get(row["code"]), ...row });
    }
    const tables = [];
    for (const category of categories) {
      const counts = category.levels.map(() => new Array<number>(classes).fill(0));
      for (const row of await this.ask(
        levelClassesSql(this.source, category.column),
        `weight of each ${category.column} within each class`,
      )) {
        const line = counts[(row["code"] ?? 0) - 1];
        if (line && typeof row["class"] === "number") line[row["class"]] = row["weight"] ?? 0;
      }
      tables.push({ column: category.column, counts });
    }
    return {
      categories: tables,
      numbers: numbers.map((column, index) => ({
        column,
        byClass: Array.from({ length: classes }, (_, code) => {
          const row = answers.get(code);
          return {
            weight: row?.[`n${index}`] ?? 0,
            mean: row?.[`m${index}`] ?? Number.NaN,
            squares: row?.[`q${index}`] ?? 0,
            sum: row?.[`s${index}`] ?? 0,
          };
        }),
      })),
    };
  }

  async marginCounts(design: Design, coefficients: Float64Array) {
    const rows = await this.ask(marginsSql(this.source, design, coefficients), "rows by margin");
    return rows.map((row) => ({
      margin: row["margin"] ?? 0,
      positives: row["positives"] ?? 0,
      negatives: row["negatives"] ?? 0,
    }));
  }

  async targetMedian(): Promise<number> {
    const [row] = await this.ask(medianSql(this.source), "median of the target");
    return row?.["median"] ?? Number.NaN;
  }

  async latestTarget(): Promise<number | undefined> {
    if (!this.asked.timed) return undefined;
    const [row] = await this.ask(latestSql(this.source, MOMENT_COLUMN), "the latest value of the target");
    return (this.task.kind === "number" ? row?.["latest"] : row?.["first"]) ?? undefined;
  }

  part({ of, part, inside }: DrawnPart): FrameQuestions {
    const drawn = `${inside ? "" : "NOT "}(floor(${quoteIdentifier(DRAW_COLUMN)} * ${quoteDouble(of)}) = ${Math.trunc(part)})`;
    return new WarehouseFrame(
      this.session,
      { ...this.asked, where: this.asked.where === "" ? drawn : `${this.asked.where} AND ${drawn}` },
      this.counter,
    );
  }

  balanced(weights: readonly number[]): FrameQuestions {
    return new WarehouseFrame(this.session, { ...this.asked, balance: weights }, this.counter);
  }
}
