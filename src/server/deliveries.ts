import { quoteTable } from "@/core/sql/quote";
import { findTable } from "@/core/plan/catalog";
import { readCatalog } from "@/warehouse/catalog";
import { LEDGER } from "@/warehouse/delivery";
import type { Warehouse } from "@/warehouse/warehouse";

export interface LedgerEntry {
  readonly run: string;
  readonly pipeline: string;
  readonly delivery: string;
  readonly table: string;
  readonly modelVersion: number;
  readonly runTime: Date;
  readonly rows: number;
  /** Rows by table, where a delivery has routes; empty for entries of earlier versions. */
  readonly byTable: Readonly<Record<string, number>>;
  readonly landedAt: Date;
}

/** The newest entries of the ledger in the warehouse, by their logical time; none before the first delivery. */
export function readLedger(warehouse: Warehouse, limit: number): Promise<readonly LedgerEntry[]> {
  return readEntries(
    warehouse,
    (columns, ledger) =>
      `SELECT ${columns} FROM ${ledger} ORDER BY run_time DESC, landed_at DESC LIMIT ${Math.trunc(limit)}`,
    [],
  );
}

/** The newest entry of every delivery of a pipeline. */
export function newestOfDeliveries(warehouse: Warehouse, pipeline: string): Promise<readonly LedgerEntry[]> {
  return readEntries(
    warehouse,
    (columns, ledger) =>
      `SELECT DISTINCT ON (delivery) ${columns} FROM ${ledger} WHERE pipeline = $1 ORDER BY delivery, run_time DESC, landed_at DESC`,
    [pipeline],
  );
}

async function readEntries(
  warehouse: Warehouse,
  query: (columns: string, ledger: string) => string,
  values: readonly unknown[],
): Promise<readonly LedgerEntry[]> {
  const reference = { schema: warehouse.config.outputSchema, table: LEDGER };
  const found = findTable(await readCatalog(warehouse), reference);
  if (!found) return [];
  const byTable = found.columns.some((each) => each.name === "by_table") ? "by_table" : "NULL AS by_table";
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
