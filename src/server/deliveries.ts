import { parseTableName } from "@/core/pipeline/table-name";
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
export async function readLedger(warehouse: Warehouse, limit: number, pipeline?: string): Promise<readonly LedgerEntry[]> {
  const reference = { schema: warehouse.config.outputSchema, table: LEDGER };
  const found = findTable(await readCatalog(warehouse), reference);
  if (!found) return [];
  const byTable = found.columns.some((each) => each.name === "by_table") ? "by_table" : "NULL AS by_table";
  const rows = await warehouse.read(
    `SELECT run_id, pipeline, delivery, target_table, model_version, run_time, rows, ${byTable}, landed_at FROM ${quoteTable(reference)} WHERE $1::text IS NULL OR pipeline = $1 ORDER BY run_time DESC, landed_at DESC LIMIT ${Math.trunc(limit)}`, [pipeline ?? null]);
  return rows.map((row) => ({
    run: String(row["run_id"]), pipeline: String(row["pipeline"]), delivery: String(row["delivery"]), table: String(row["target_table"]), modelVersion: Number(row["model_version"]),
    runTime: new Date(String(row["run_time"])), rows: Number(row["rows"]), byTable: (row["by_table"] ?? {}) as Readonly<Record<string, number>>, landedAt: new Date(String(row["landed_at"])),
  }));
}

/** Where a prediction table is shown. */
export function tableHref(name: string): string | undefined {
  const reference = parseTableName(name);
  return reference && `/tables/${encodeURIComponent(reference.schema)}/${encodeURIComponent(reference.table)}`;
}
