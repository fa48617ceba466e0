import { rowCountQuestion } from "@/core/questions/row-count";
import { table, type TableReference } from "@/core/relation/relation";
import { quoteTable, quoteText } from "@/core/sql/quote";
import type { Warehouse, WarehouseSession } from "@/warehouse/warehouse";

/** What a step of a run says of itself when an earlier attempt has done its work. */
export const KEPT = "reused from an earlier attempt";

const bare = (runId: string): string => runId.replaceAll("-", "");

export type ScratchPurpose = "base" | "frame" | "sample" | "stage" | "state" | "inputs" | "outputs";

/** A scratch table of one attempt of one run. `which` tells several of one purpose apart: digits and small letters. */
export function scratchTable(
  warehouse: Warehouse,
  purpose: ScratchPurpose,
  runId: string,
  attempt: number,
  which = "",
): TableReference {
  return {
    schema: warehouse.config.scratchSchema,
    table: `${purpose}_${bare(runId)}_${attempt}${which === "" ? "" : `_${which}`}`,
  };
}

/** The table that keeps the scored holdout of the version a run made. It stays. */
export function holdoutTable(warehouse: Warehouse, runId: string): TableReference {
  return { schema: warehouse.config.scratchSchema, table: `holdout_${bare(runId)}` };
}

/** The table that keeps the scored blind part. It stays, unread until somebody opens it. */
export function blindTable(warehouse: Warehouse, runId: string): TableReference {
  return { schema: warehouse.config.scratchSchema, table: `blind_${bare(runId)}` };
}

/** The table that keeps scored training rows, or some of them, beside the holdout. It stays. */
export function trainedTable(warehouse: Warehouse, runId: string): TableReference {
  return { schema: warehouse.config.scratchSchema, table: `trained_${bare(runId)}` };
}

const ALL_PURPOSES = "base|frame|sample|stage|state|inputs|outputs";
const runTables = (runId: string): string => `^(${ALL_PURPOSES})_${bare(runId)}_[0-9]+(_[0-9a-z]+)?$`;

/** Those that are kept with a version too. */
const allTables = (runId: string): string => `${runTables(runId)}|^(holdout|blind|trained)_${bare(runId)}$`;

/** The run that a scratch table belongs to; undefined for tables that stay, and for those of somebody else. */
export function runOfScratch(name: string): string | undefined {
  const found = new RegExp(
    `^(?:${ALL_PURPOSES})_([0-9a-f]{8})([0-9a-f]{4})([0-9a-f]{4})([0-9a-f]{4})([0-9a-f]{12})_[0-9]+(?:_[0-9a-z]+)?$`,
  ).exec(name);
  return found?.slice(1).join("-");
}

/**
 * Says of a scratch table that it is complete, and what it was made from, so that a later attempt can go on from there.
 * @param rows how many rows it holds: a server that crashes empties unlogged tables and keeps what is said of them
 */
export async function sealTable(
  session: WarehouseSession,
  table: TableReference,
  madeFrom: string,
  rows: number,
): Promise<void> {
  await session.run(
    `COMMENT ON TABLE ${quoteTable(table)} IS ${quoteText(sealOf(madeFrom, rows))}`,
    "mark these rows as complete",
  );
}

const sealOf = (madeFrom: string, rows: number | string): string =>
  `complete: ${rows} rows made from ${madeFrom}`;

/** A complete scratch table of an earlier attempt of a run. */
export interface SealedTable {
  readonly table: TableReference;
  readonly rows: number;
}

/** The complete scratch table that an earlier attempt of a run left behind, if it was made from the same and still holds its rows. */
export async function sealedTable(
  session: WarehouseSession,
  warehouse: Warehouse,
  purpose: ScratchPurpose,
  runId: string,
  madeFrom: string,
): Promise<SealedTable | undefined> {
  const { scratchSchema } = warehouse.config;
  const found = await session.run(
    "SELECT c.relname AS name, (regexp_match(obj_description(c.oid, 'pg_class'), $3))[1]::float8 AS rows FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relkind = 'r' AND c.relname ~ $2 AND obj_description(c.oid, 'pg_class') ~ $3 ORDER BY c.oid DESC",
    "look for complete rows of an earlier attempt",
    [scratchSchema, `^${purpose}_${bare(runId)}_[0-9]+$`, `^${sealOf(madeFrom, "([0-9]+)")}$`],
  );
  for (const row of found) {
    const made = { schema: scratchSchema, table: String(row["name"]) };
    const held = await session.ask(rowCountQuestion(table(made, []), "check that all rows are present"));
    if (held === Number(row["rows"])) return { table: made, rows: held };
  }
  return undefined;
}

/** Ends sessions that an earlier attempt of this run left behind, and drops its tables but those that are complete. */
export async function sweep(session: WarehouseSession, warehouse: Warehouse, runId: string): Promise<void> {
  await session.run(
    `SET application_name = ${quoteText(`ravlen run ${runId}`)}`,
    "label this session with the run",
  );
  await session.run(
    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = $1 AND usename = current_user AND pid <> pg_backend_pid()",
    "end sessions of an earlier attempt",
    [`ravlen run ${runId}`],
  );
  await dropScratch(session, warehouse, runId, { keepSealed: true });
}

/**
 * Drops the scratch tables of every attempt of a run.
 * @param keep.keepSealed whether those that are complete stay
 * @param keep.judged whether the judged rows go too, since there is no version that they belong to
 */
export async function dropScratch(
  session: WarehouseSession,
  warehouse: Warehouse,
  runId: string,
  { keepSealed = false, judged = false }: { readonly keepSealed?: boolean; readonly judged?: boolean } = {},
): Promise<void> {
  const { scratchSchema } = warehouse.config;
  const left = await session.run(
    "SELECT c.relname AS name FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relkind = 'r' AND c.relname ~ $2 AND NOT ($3 AND coalesce(obj_description(c.oid, 'pg_class'), '') LIKE 'complete%')",
    "find scratch tables of this run",
    [scratchSchema, judged ? allTables(runId) : runTables(runId), keepSealed],
  );
  for (const row of left)
    await session.drop({ schema: scratchSchema, table: String(row["name"]) }, "drop a scratch table");
}
