import { ProblemError, unwrap, type Problem } from "@/core/problem";
import { parsePipeline } from "@/core/pipeline/parse";
import { findTable, type CatalogColumn } from "@/core/plan/catalog";
import { pageQuestion } from "@/core/questions/page";
import type { Question } from "@/core/questions/question";
import { hidden } from "@/core/sql/hidden";
import { quoteIdentifier, quoteTable } from "@/core/sql/quote";
import { checkText } from "@/runs/check-file";
import { learnedUpTo, relationAt } from "@/runs/draft/preview";
import { compareVersions } from "@/runs/judging/compare";
import { judgedRows, rowReasons } from "@/runs/judging/judged-rows";
import { openJudged, type JudgedVersion } from "@/runs/judging/judged-table";
import { residualsOf, segmentsOf } from "@/runs/judging/segments";
import { modelById } from "@/store/models";
import { readCatalog } from "@/warehouse/postgres/catalog";
import { outlineTable, stateOfKey } from "@/warehouse/outline";
import { againstTarget, pairOf } from "@/warehouse/relate-columns";
import { suggestJoins } from "@/warehouse/suggest-joins";
import { profileTable } from "@/warehouse/table-profile";
import { openBench, TEST_NOW, type Bench } from "../warehouse";
import { operate } from "./postgres-operating";
import type { Answer, GoldenEngine, GoldenTable, JudgingQuestion, TableQuestion, Training } from "./engine";

const RUN_TIME = TEST_NOW.toISOString();
/** How columns with a model's outputs begin. */
const OUTPUT = hidden("output_");
const JUDGED_ROWS = 8;
/** The schema of all golden tables. */
const SCHEMA = "Ort A";
/** More than any case has. */
const MOST_ROWS = 10_000;

function definitionOf(table: GoldenTable): string {
  const columns = table.columns.map(
    ({ name, type, notNull }) => `${quoteIdentifier(name)} ${type}${notNull ? " NOT NULL" : ""}`,
  );
  const key = table.key ? [`PRIMARY KEY (${table.key.map(quoteIdentifier).join(", ")})`] : [];
  return `CREATE TABLE ${quoteTable(table)} (${[...columns, ...key].join(", ")})`;
}

async function load(bench: Bench, table: GoldenTable): Promise<void> {
  await bench.sql(`CREATE SCHEMA IF NOT EXISTS ${quoteIdentifier(table.schema)}`);
  await bench.sql(definitionOf(table));
  const values = table.columns.map((_column, index) => `$${index + 1}`).join(", ");
  await bench.admin(async (client) => {
    for (const row of table.rows)
      await client.query(`INSERT INTO ${quoteTable(table)} VALUES (${values})`, [...row]);
  });
}

/** Names of the SQL standard for what statements of these cases fail with. */
const CONDITIONS: Readonly<Record<string, string>> = {
  "22003": "numeric value out of range",
  "22007": "invalid datetime format",
  "22008": "datetime field overflow",
  "22012": "division by zero",
  "2201E": "invalid argument for natural logarithm",
  "2201F": "invalid argument for power function",
  "22023": "invalid parameter value",
  "22P02": "invalid character value for cast",
};

/** Named by the first error: others often follow from it. */
const refusal = (problems: readonly Problem[]): string =>
  `refused: ${problems.find(({ severity }) => severity === "error")?.code}`;

async function answered<T>(work: () => Promise<T>): Promise<Answer<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (error) {
    if (error instanceof ProblemError) return { ok: false, failure: refusal(error.problems) };
    const condition = CONDITIONS[String((error as { readonly code?: unknown }).code)];
    if (condition === undefined) throw error;
    return { ok: false, failure: `fails: ${condition}` };
  }
}

/** Trains the first candidate of a file, as a person would, and reads the holdout that it was evaluated on. */
async function train(bench: Bench, file: string): Promise<Training> {
  await bench.save(file);
  const { name, roles } = unwrap(parsePipeline(file)).file;
  const run = await bench.run("train", name);
  if (run.state !== "done") throw new ProblemError(...run.problems);
  const { model, judgement, metrics, data } = (await modelById(bench.context.store.db, run.modelId!))!;
  const key = roles.key[0]!;
  const rows = await bench.sql(
    `SELECT * FROM ${quoteTable({ schema: "scratch", table: data.holdoutTable! })} ORDER BY ${quoteIdentifier(key)}`,
  );
  const outputs = Object.keys(rows[0] ?? {}).filter((column) => column.startsWith(OUTPUT));
  return {
    model,
    judgement: { metrics, ...judgement },
    predictions: rows.map((row) => [key, ...outputs].map((column) => Number(row[column]))),
  };
}

async function answerAboutTable(
  { context: { warehouse } }: Bench,
  name: string,
  question: TableQuestion,
): Promise<unknown> {
  const catalog = await readCatalog(warehouse);
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

  constructor(private readonly bench: Bench) {}

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
  { context: { warehouse } }: Bench,
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

/** What tests ask of PostgreSQL besides the golden cases. */
export interface PostgresEngine {
  readonly ask: <Answer>(question: Question<Answer>, runTime: string) => Promise<Answer>;
}

/** PostgreSQL, as the application uses it. */
export async function openPostgres(): Promise<GoldenEngine & PostgresEngine> {
  const bench = await openBench();
  const { warehouse } = bench.context;
  const versions = new Versions(bench);
  return {
    load: (table) => load(bench, table),
    rowsAfter: async (file) => {
      const checked = await checkText(file, warehouse);
      if (!checked.ok) return { ok: false, failure: refusal(checked.problems) };
      return answered(async () => {
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
    train: (file) => answered(() => train(bench, file)),
    operate: (file, times) => operate(bench, file, times),
    ask: (question, runTime) => warehouse.ask(question, { runTime }),
    close: bench.close,
  };
}
