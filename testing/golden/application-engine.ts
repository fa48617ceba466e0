import { ProblemError, unwrap, type Problem } from "@/core/problem";
import { parsePipeline } from "@/core/pipeline/parse";
import { findTable, type CatalogColumn } from "@/core/plan/catalog";
import { pageQuestion } from "@/core/questions/page";
import type { Question } from "@/core/questions/question";
import { hidden } from "@/core/names/hidden";
import { rowsQuestion, type AnyRow } from "@/core/questions/rows";
import { table, type TableReference } from "@/core/relation/relation";
import { checkText } from "@/runs/check-file";
import { learnedUpTo, relationAt } from "@/runs/draft/preview";
import { compareVersions } from "@/runs/judging/compare";
import { judgedRows, rowReasons } from "@/runs/judging/judged-rows";
import { openJudged, type JudgedVersion } from "@/runs/judging/judged-table";
import { residualsOf, segmentsOf } from "@/runs/judging/segments";
import { modelById } from "@/store/models";
import { outlineTable, stateOfKey } from "@/warehouse/outline";
import { againstTarget, pairOf } from "@/warehouse/relate-columns";
import { suggestJoins } from "@/warehouse/suggest-joins";
import { profileTable } from "@/warehouse/table-profile";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { TEST_NOW, type Bench } from "../warehouse";
import { operate } from "./operate";
import type { Answer, GoldenEngine, JudgingQuestion, TableQuestion, Training } from "./engine";

const RUN_TIME = TEST_NOW.toISOString();
/** How columns with a model's outputs begin. */
const OUTPUT = hidden("output_");
const JUDGED_ROWS = 8;
/** The schema of all golden tables. */
const SCHEMA = "Ort A";
/** More than any case has. */
const MOST_ROWS = 10_000;

/** The name in the SQL standard of what an error says; undefined where it says something else. */
type ConditionOf = (error: unknown) => string | undefined;

/** Named by the first error: others often follow from it. */
const refusal = (problems: readonly Problem[]): string =>
  `refused: ${problems.find(({ severity }) => severity === "error")?.code}`;

async function answered<T>(conditionOf: ConditionOf, work: () => Promise<T>): Promise<Answer<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (error) {
    if (error instanceof ProblemError) return { ok: false, failure: refusal(error.problems) };
    const condition = conditionOf(error);
    if (condition === undefined) throw error;
    return { ok: false, failure: `fails: ${condition}` };
  }
}

function compareKeys(left: AnyRow, right: AnyRow, names: readonly string[]): number {
  const orders = names.map((name) => {
    const [one, other] = [left[name], right[name]];
    if (typeof one === "number") return one - Number(other);
    return String(one).localeCompare(String(other), "en");
  });
  return orders.find((order) => order !== 0) ?? 0;
}

async function columnsOf({ context }: Bench<Warehouse>, table: TableReference): Promise<readonly string[]> {
  const found = findTable(await context.warehouse.catalog.read(), table);
  return found!.columns.map(({ name }) => name);
}

const allRows = (source: TableReference, columns: readonly string[]): Question<readonly AnyRow[]> =>
  rowsQuestion(table(source, columns), "all rows");

/** Trains the first candidate of a file, as a person would, and reads the holdout that it was evaluated on. */
async function train(bench: Bench<Warehouse>, file: string): Promise<Training> {
  await bench.save(file);
  const { name, roles } = unwrap(parsePipeline(file)).file;
  const run = await bench.run("train", name);
  if (run.state !== "done") throw new ProblemError(...run.problems);
  const { model, judgement, metrics, data } = (await modelById(bench.context.store.db, run.modelId!))!;
  const key = roles.key[0]!;
  const holdout = { schema: "scratch", table: data.holdoutTable! };
  const found = await bench.context.warehouse.ask(allRows(holdout, await columnsOf(bench, holdout)));
  const rows = [...found].sort((left, right) => compareKeys(left, right, roles.key));
  const outputs = Object.keys(rows[0] ?? {}).filter((column) => column.startsWith(OUTPUT));
  return {
    model,
    judgement: { metrics, ...judgement },
    predictions: rows.map((row) => [key, ...outputs].map((column) => Number(row[column]))),
  };
}

async function answerAboutTable(
  { context: { warehouse } }: Bench<Warehouse>,
  name: string,
  question: TableQuestion,
): Promise<unknown> {
  const catalog = await warehouse.catalog.read();
  const table = findTable(catalog, { schema: SCHEMA, table: name })!;
  const column = (wanted: string): CatalogColumn => table.columns.find((found) => found.name === wanted)!;
  switch (question.kind) {
    case "profile":
      return { ...(await profileTable(warehouse, table)), took: 0 };
    case "outline":
      return outlineTable(warehouse, table);
    case "joins":
      return suggestJoins(warehouse, catalog, table, true);
    case "pair":
      return pairOf(warehouse, table, column(question.columns[0]), column(question.columns[1]));
    case "target":
      return againstTarget(warehouse, table, column(question.column));
    case "key":
      return stateOfKey(warehouse, table, question.columns);
  }
}

/** Versions that questions are about, trained once: by file and candidate. */
class Versions {
  private readonly trained = new Map<string, Promise<JudgedVersion>>();

  constructor(private readonly bench: Bench<Warehouse>) {}

  open(file: string, candidate?: string): Promise<JudgedVersion> {
    const key = `${candidate ?? ""} ${file}`;
    const known = this.trained.get(key) ?? this.train(file, candidate);
    this.trained.set(key, known);
    return known;
  }

  private async train(file: string, candidate: string | undefined): Promise<JudgedVersion> {
    await this.bench.save(file);
    const { name } = unwrap(parsePipeline(file)).file;
    const run = await this.bench.run("train", name, candidate === undefined ? {} : { candidate });
    if (run.state !== "done") throw new ProblemError(...run.problems);
    return openJudged(this.bench.context, run.modelId!);
  }
}

async function answerAboutVersion(
  { context: { warehouse } }: Bench<Warehouse>,
  versions: Versions,
  file: string,
  question: JudgingQuestion,
): Promise<unknown> {
  const judged = await versions.open(file);
  switch (question.kind) {
    case "segments":
      return segmentsOf(warehouse, judged, question.column);
    case "residuals":
      return residualsOf(warehouse, judged, question.column);
    case "rows":
      return judgedRows(warehouse, judged, question.choice, undefined, 0, JUDGED_ROWS);
    case "reasons":
      return rowReasons(warehouse, judged, question.key);
    case "comparison":
      return compareVersions(warehouse, judged, await versions.open(file, question.candidate));
  }
}

/** The application with a warehouse of some kind, as an engine of the golden cases. */
export function applicationEngine(
  bench: Bench<Warehouse>,
  load: GoldenEngine["load"],
  conditionOf: ConditionOf,
): GoldenEngine {
  const { warehouse } = bench.context;
  const versions = new Versions(bench);
  return {
    load,
    rowsAfter: async (file) => {
      const checked = await checkText(file, warehouse);
      if (!checked.ok) return { ok: false, failure: refusal(checked.problems) };
      return answered(conditionOf, async () => {
        const plan = checked.value;
        const last = plan.main.steps.length;
        const relation = await relationAt(plan, warehouse, plan.main.name, last, RUN_TIME);
        const question = pageQuestion(relation, "rows after the last step", { rows: MOST_ROWS });
        const { columns, rows } = await warehouse.ask(question, { runTime: RUN_TIME });
        const learned = (await learnedUpTo(plan, warehouse, last, RUN_TIME))[String(last - 1)] ?? null;
        return { columns, rows, learned };
      });
    },
    aboutTable: (table, question) => answerAboutTable(bench, table, question),
    aboutVersion: (file, question) => answerAboutVersion(bench, versions, file, question),
    train: (file) => answered(conditionOf, () => train(bench, file)),
    operate: (file, times) => operate(bench, file, times),
    close: bench.close,
  };
}
