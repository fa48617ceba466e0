import type { Design } from "@/core/learn/design";
import type { CategoryLevels } from "@/core/plan/frame";
import type { FrameQuestions, FrameSummary } from "@/core/learn/questions";
import { readCurvature, readSlope, type AnswerRow } from "@/core/learn/warehouse-answers";
import { curvatureSql, levelsSql, sampleSql, slopeSql, summarySql, type AskedTable } from "@/core/learn/warehouse-questions";
import type { WarehouseSession } from "./warehouse";

/**
 * Answers a learner's questions by statements over a frame in the warehouse. No row comes out; the numbers that do are counted.
 * @param frame quoted name of the frame
 * @param sample quoted name under which the fixed sample is kept; whoever drops the frame drops it too
 */
export class WarehouseFrame implements FrameQuestions {
  private out = 0;

  constructor(
    private readonly session: WarehouseSession,
    private readonly frame: string,
    private readonly sample: string,
    private readonly numbers: readonly string[],
    private readonly categories: readonly CategoryLevels[],
  ) {}

  numbersOut(): number {
    return this.out;
  }

  private async ask(sql: string, purpose: string): Promise<readonly AnswerRow[]> {
    const rows = (await this.session.run(sql, purpose)) as readonly AnswerRow[];
    for (const row of rows) this.out += Object.keys(row).length;
    return rows;
  }

  async summary(): Promise<FrameSummary> {
    const answers: AnswerRow = Object.assign({}, ...(await this.all(summarySql(this.frame, this.numbers), "count rows and classes; mean and spread of each number")).flat()) as AnswerRow;
    const rows = answers["rows"] ?? 0;
    const categories = [];
    for (const category of this.categories) {
      const found = await this.ask(levelsSql(this.frame, category.column), `rows of each ${category.column}`);
      const byCode = new Map(found.map((row) => [row["code"], row]));
      categories.push({
        column: category.column,
        rows: category.levels.map((_, index) => byCode.get(index + 1)?.["rows"] ?? 0),
        positives: category.levels.map((_, index) => byCode.get(index + 1)?.["positives"] ?? 0),
      });
    }
    return {
      rows, positives: answers["positives"] ?? 0, unanswered: answers["unanswered"] ?? 0, categories,
      numbers: this.numbers.map((column, index) => ({
        column, missing: rows - (answers[`n${index}`] ?? 0), mean: answers[`m${index}`] ?? Number.NaN, deviation: answers[`d${index}`] ?? Number.NaN,
      })),
    };
  }

  private async all(statements: readonly string[], purpose: string): Promise<readonly (readonly AnswerRow[])[]> {
    const answers: (readonly AnswerRow[])[] = [];
    for (const sql of statements) answers.push(await this.ask(sql, purpose));
    return answers;
  }

  async drawSample(design: Design, wanted: number, total: number): Promise<number> {
    const share = total <= wanted ? 1 : wanted / total;
    await this.session.run(`DROP TABLE IF EXISTS ${this.sample}`, "remove an earlier sample");
    await this.session.run(sampleSql(this.frame, this.sample, design, share), share === 1 ? "copy the rows inside the warehouse, scaled" : "draw the fixed sample inside the warehouse");
    const [row] = await this.ask(`SELECT count(*)::double precision AS rows FROM ${this.sample}`, "size of the sample");
    return row?.["rows"] ?? 0;
  }

  private asked(scope: "all" | "sample"): AskedTable {
    return scope === "sample" ? { table: this.sample, scaled: true } : { table: this.frame, scaled: false };
  }

  async slope(design: Design, coefficients: Float64Array, scope: "all" | "sample") {
    const asked = this.asked(scope);
    const statements = slopeSql(asked, design, coefficients);
    return readSlope(design, asked.scaled, statements, await this.all(statements.map((each) => each.sql), scope === "sample" ? "loss and gradient over the sample" : "loss and gradient over all rows"));
  }

  async curvature(design: Design, coefficients: Float64Array, scope: "all" | "sample") {
    const statements = curvatureSql(this.asked(scope), design, coefficients);
    return readCurvature(design, statements, await this.all(statements.map((each) => each.sql), scope === "sample" ? "curvature over the sample" : "curvature over all rows"));
  }
}
