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
  readonly landedAt: Date;
}

/** The newest entries of the ledger in the warehouse; none before the first delivery. */
export async function readLedger(warehouse: Warehouse, limit: number, pipeline?: string): Promise<readonly LedgerEntry[]> {
  const reference = { schema: warehouse.config.outputSchema, table: LEDGER };
  if (!findTable(await readCatalog(warehouse), reference)) return [];
  const rows = await warehouse.read(
    `SELECT run_id, pipeline, delivery, target_table, model_version, run_time, rows, landed_at FROM ${quoteTable(reference)} WHERE $1::text IS NULL OR pipeline = $1 ORDER BY landed_at DESC LIMIT ${Math.trunc(limit)}`, [pipeline ?? null]);
  return rows.map((row) => ({
    run: String(row["run_id"]), pipeline: String(row["pipeline"]), delivery: String(row["delivery"]), table: String(row["target_table"]), modelVersion: Number(row["model_version"]),
    runTime: new Date(String(row["run_time"])), rows: Number(row["rows"]), landedAt: new Date(String(row["landed_at"])),
  }));
}

/** Where a prediction table is shown. */
export function tableHref(name: string): string | undefined {
  const reference = parseTableName(name);
  return reference && `/tables/${encodeURIComponent(reference.schema)}/${encodeURIComponent(reference.table)}`;
}
