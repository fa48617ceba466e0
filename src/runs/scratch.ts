import type { TableReference } from "@/core/relation/relation";
import { quoteTable, quoteText } from "@/core/sql/quote";
import type { Warehouse, WarehouseSession } from "@/warehouse/warehouse";

const bare = (runId: string): string => runId.replaceAll("-", "");

export type ScratchPurpose = "base" | "frame" | "sample" | "stage" | "state" | "inputs" | "outputs";

/** A scratch table of one attempt of one run. `which` tells several of one purpose apart: digits and small letters. */
export function scratchTable(warehouse: Warehouse, purpose: ScratchPurpose, runId: string, attempt: number, which = ""): TableReference {
  return { schema: warehouse.config.scratchSchema, table: `${purpose}_${bare(runId)}_${attempt}${which === "" ? "" : `_${which}`}` };
}

/** The table that keeps the scored holdout of the version a run made. It stays. */
export function holdoutTable(warehouse: Warehouse, runId: string): TableReference {
  return { schema: warehouse.config.scratchSchema, table: `holdout_${bare(runId)}` };
}

/** The table that keeps the scored blind part. It stays, unread until somebody opens it. */
export function blindTable(warehouse: Warehouse, runId: string): TableReference {
  return { schema: warehouse.config.scratchSchema, table: `blind_${bare(runId)}` };
}

/** Ends sessions that an earlier attempt of this run left behind, and drops its tables. */
export async function sweep(session: WarehouseSession, warehouse: Warehouse, runId: string): Promise<void> {
  await session.run(`SET application_name = ${quoteText(`ravlen run ${runId}`)}`, "name this session after the run");
  await session.run("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = $1 AND usename = current_user AND pid <> pg_backend_pid()", "end sessions of an earlier attempt", [`ravlen run ${runId}`]);
  await dropScratch(session, warehouse, runId);
}

/** Drops the scratch tables of every attempt of a run. */
export async function dropScratch(session: WarehouseSession, warehouse: Warehouse, runId: string): Promise<void> {
  const { scratchSchema } = warehouse.config;
  const left = await session.run(
    "SELECT c.relname AS name FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relkind = 'r' AND c.relname ~ $2",
    "find scratch tables of this run", [scratchSchema, `^(base|frame|sample|stage|state|inputs|outputs)_${bare(runId)}_[0-9]+(_[0-9a-z]+)?$`]);
  for (const row of left) await session.run(`DROP TABLE IF EXISTS ${quoteTable({ schema: scratchSchema, table: String(row["name"]) })}`, "drop a scratch table");
}
