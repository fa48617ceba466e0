import { rowCountQuestion } from "@/core/questions/row-count";
import { table, type TableReference } from "@/core/relation/relation";
import { addSeal, forgetSeals, sealsOf } from "@/store/seals";
import type { Warehouse } from "@/warehouse/port/warehouse";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { Context } from "./context";

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

/** Whether a table of the scratch schema is kept with a version. */
export const isKeptTable = (name: string): boolean => /^(holdout|blind|trained)/.test(name);

const ALL_PURPOSES = "base|frame|sample|stage|state|inputs|outputs";

/** Names of the scratch tables of a run; on request also of those that are kept with a version. */
const namesOf = (runId: string, kept: boolean): RegExp =>
  new RegExp(
    `^(${ALL_PURPOSES})_${bare(runId)}_[0-9]+(_[0-9a-z]+)?$${kept ? `|^(holdout|blind|trained)_${bare(runId)}$` : ""}`,
  );

/** The run that a scratch table belongs to; undefined for tables that stay, and for those of somebody else. */
export function runOfScratch(name: string): string | undefined {
  const found = new RegExp(
    `^(?:${ALL_PURPOSES})_([0-9a-f]{8})([0-9a-f]{4})([0-9a-f]{4})([0-9a-f]{4})([0-9a-f]{12})_[0-9]+(?:_[0-9a-z]+)?$`,
  ).exec(name);
  return found?.slice(1).join("-");
}

/**
 * Records that a scratch table of a run is complete, and what it was made from, so that a later attempt can go
 * on from there.
 * @param rows how many rows it holds: a server that crashes may lose rows of scratch tables
 */
export async function sealTable(
  { store }: Context,
  runId: string,
  { table: name }: TableReference,
  seal: { readonly purpose: ScratchPurpose; readonly madeFrom: string; readonly rows: number },
): Promise<void> {
  await addSeal(store.db, { runId, table: name, ...seal });
}

/** A complete scratch table of an earlier attempt of a run. */
export interface SealedTable {
  readonly table: TableReference;
  readonly rows: number;
}

/**
 * The complete scratch table that an earlier attempt of a run left behind, if it was made from the same and still
 * holds its rows.
 */
export async function sealedTable(
  session: WarehouseSession,
  { store, warehouse }: Context,
  runId: string,
  { purpose, madeFrom }: { readonly purpose: ScratchPurpose; readonly madeFrom: string },
): Promise<SealedTable | undefined> {
  const seals = await sealsOf(store.db, [runId]);
  const equal = seals.filter((seal) => seal.purpose === purpose && seal.madeFrom === madeFrom);
  if (equal.length === 0) return undefined;
  const { scratchSchema } = warehouse.config;
  const present = new Set(
    await session.tableNames(scratchSchema, "look for complete rows of an earlier attempt"),
  );
  for (const seal of equal.filter(({ table: name }) => present.has(name))) {
    const made = { schema: scratchSchema, table: seal.table };
    const held = await session.ask(rowCountQuestion(table(made, []), "check that all rows are present"));
    if (held === seal.rows) return { table: made, rows: held };
  }
  return undefined;
}

/** Ends sessions that an earlier attempt of this run left behind, and drops its tables but those that are complete. */
export async function sweep(session: WarehouseSession, context: Context, runId: string): Promise<void> {
  await session.takeOver(`ravlen run ${runId}`);
  await dropScratch(session, context, runId, { keepSealed: true });
}

/**
 * Drops the scratch tables of every attempt of a run.
 * @param keep.keepSealed whether those that are complete stay
 * @param keep.judged whether the judged rows go too, since there is no version that they belong to
 */
export async function dropScratch(
  session: WarehouseSession,
  { store, warehouse }: Context,
  runId: string,
  { keepSealed = false, judged = false }: { readonly keepSealed?: boolean; readonly judged?: boolean } = {},
): Promise<void> {
  const { scratchSchema } = warehouse.config;
  const kept = keepSealed ? (await sealsOf(store.db, [runId])).map((seal) => seal.table) : [];
  const names = namesOf(runId, judged);
  const found = await session.tableNames(scratchSchema, "find scratch tables of this run");
  const left = found.filter((name) => names.test(name) && !kept.includes(name));
  for (const name of left) await session.drop({ schema: scratchSchema, table: name }, "drop a scratch table");
  await forgetSeals(store.db, runId, left);
}
