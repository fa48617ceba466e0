import { quoteTable } from "./dialect/quote";
import { findTable } from "@/core/plan/catalog";
import type { Ledger, LedgerEntry } from "../port/landing";
import { LEDGER } from "./delivery";
import type { PostgresWarehouse } from "./warehouse";

/** The newest entry of every prediction table, the table that landed last first. */
async function newestOfTables(warehouse: PostgresWarehouse): Promise<readonly LedgerEntry[]> {
  const entries = await readEntries(
    warehouse,
    (columns, ledger) =>
      `SELECT DISTINCT ON (target_table) ${columns} FROM ${ledger} ORDER BY target_table, run_time DESC, landed_at DESC`,
    [],
  );
  return [...entries].sort((left, right) => right.runTime.getTime() - left.runTime.getTime());
}

/**
 * The newest entry of every delivery, of a pipeline by all names that it has or had, or of all; none before the
 * first delivery.
 */
function newestOfDeliveries(
  warehouse: PostgresWarehouse,
  pipeline?: { readonly name: string; readonly formerNames: readonly string[] },
): Promise<readonly LedgerEntry[]> {
  return readEntries(
    warehouse,
    (columns, ledger) =>
      pipeline === undefined
        ? `SELECT DISTINCT ON (pipeline, delivery) ${columns} FROM ${ledger} ORDER BY pipeline, delivery, run_time DESC, landed_at DESC`
        : `SELECT DISTINCT ON (delivery) ${columns} FROM ${ledger} WHERE pipeline = ANY ($1) ORDER BY delivery, run_time DESC, landed_at DESC`,
    pipeline === undefined ? [] : [[pipeline.name, ...pipeline.formerNames]],
  );
}

/** The tables into which a run delivered, those of routes too; none while the warehouse does not answer. */
async function tablesOfRun(warehouse: PostgresWarehouse, run: string): Promise<readonly string[]> {
  const entries = await readEntries(
    warehouse,
    (columns, ledger) => `SELECT ${columns} FROM ${ledger} WHERE run_id = $1`,
    [run],
  ).catch(() => []);
  return [...new Set(entries.flatMap(({ table, byTable }) => [table, ...Object.keys(byTable)]))];
}

async function readEntries(
  warehouse: PostgresWarehouse,
  query: (columns: string, ledger: string) => string,
  values: readonly unknown[],
): Promise<readonly LedgerEntry[]> {
  const reference = { schema: warehouse.config.outputSchema, table: LEDGER };
  const found = findTable(await warehouse.catalog.read(), reference);
  if (!found) return [];
  const byTable = found.columns.some((column) => column.name === "by_table")
    ? "by_table"
    : "NULL AS by_table";
  const rows = await warehouse.read(
    query(
      `run_id, pipeline, delivery, target_table, model_version, run_time, rows, ${byTable}, landed_at`,
      quoteTable(reference),
    ),
    values,
  );
  return rows.map((row) => ({
    run: String(row["run_id"]),
    pipeline: String(row["pipeline"]),
    delivery: String(row["delivery"]),
    table: String(row["target_table"]),
    modelVersion: Number(row["model_version"]),
    runTime: new Date(String(row["run_time"])),
    rows: Number(row["rows"]),
    byTable: (row["by_table"] ?? {}) as Readonly<Record<string, number>>,
    landedAt: new Date(String(row["landed_at"])),
  }));
}

/** What has landed in a warehouse. */
export const ledgerOf = (warehouse: PostgresWarehouse): Ledger => ({
  newestOfTables: () => newestOfTables(warehouse),
  newestOfDeliveries: (pipeline) => newestOfDeliveries(warehouse, pipeline),
  tablesOfRun: (run) => tablesOfRun(warehouse, run),
});
