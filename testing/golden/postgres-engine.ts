import type { Question } from "@/core/questions/question";
import { quoteIdentifier, quoteTable } from "@/warehouse/postgres/dialect/quote";
import { openBench, type Bench } from "../warehouse";
import { applicationEngine } from "./application-engine";
import type { GoldenEngine, GoldenTable } from "./engine";

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

/** What tests ask of PostgreSQL besides the golden cases. */
export interface PostgresEngine {
  readonly ask: <Answer>(question: Question<Answer>, runTime: string) => Promise<Answer>;
}

/** PostgreSQL, as the application uses it. */
export async function openPostgres(): Promise<GoldenEngine & PostgresEngine> {
  const bench = await openBench();
  const engine = applicationEngine(
    bench,
    (table) => load(bench, table),
    (error) => CONDITIONS[String((error as { readonly code?: unknown }).code)],
  );
  return { ...engine, ask: (question, runTime) => bench.context.warehouse.ask(question, { runTime }) };
}
