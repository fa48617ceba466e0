import { quoteTable } from "@/core/sql/quote";
import type { TableReference } from "@/core/relation/relation";
import type { Rows, Warehouse } from "./warehouse";

/** What is measured about a table by looking at all its rows. */
export interface TableFacts {
  readonly rows: number;
  /** When its newest row version was committed, where the server keeps that; ISO text. */
  readonly changedAt: string | null;
  /** Equal markers mean that nothing was written in between. */
  readonly marker: string;
}

/** How a question is put to the warehouse: by the reader, or by the session of a run, which can be cancelled. */
export type Ask = (sql: string, values: readonly unknown[]) => Promise<Rows>;

/** How long counting the rows of a table may take when nobody ordered it, before the server ends it. */
const COUNT_MILLISECONDS = 20_000;

const known = new WeakMap<Warehouse, Map<string, TableFacts>>();

/** Write counters of a table: cheap, and different after every committed change; empty for a view, and for what is not there. */
export async function changeMarker(ask: Ask, reference: TableReference): Promise<string> {
  const [row] = await ask(
    `SELECT concat_ws('/', c.oid, pg_relation_filenode(c.oid), s.n_tup_ins, s.n_tup_upd, s.n_tup_del, pg_relation_size(c.oid)) AS marker, c.relkind AS kind
     FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace LEFT JOIN pg_stat_all_tables s ON s.relid = c.oid WHERE n.nspname = $1 AND c.relname = $2`,
    [reference.schema, reference.table],
  );
  // A view changes whenever what it reads does; its count is never reused.
  return row?.["kind"] === "v" ? "" : String(row?.["marker"] ?? "");
}

/**
 * Exact rows and last change of a table, counted anew only when something was written since.
 * @param ask who asks; the reader when left out, which gives up after {@link COUNT_MILLISECONDS}
 */
export async function tableFacts(
  warehouse: Warehouse,
  reference: TableReference,
  ask: Ask = (sql, values) => warehouse.read(sql, values, COUNT_MILLISECONDS),
): Promise<TableFacts> {
  const cache = known.get(warehouse) ?? new Map<string, TableFacts>();
  known.set(warehouse, cache);
  const key = quoteTable(reference);
  const marker = await changeMarker(ask, reference);
  const earlier = cache.get(key);
  if (earlier && marker !== "" && earlier.marker === marker) return earlier;
  const timed = marker !== "" && (await keepsCommitTimes(ask));
  const [row] = await ask(
    `SELECT count(*) AS rows${timed ? `, to_char(max(pg_xact_commit_timestamp(xmin)), 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS changed` : ""} FROM ${key}`,
    [],
  );
  const facts: TableFacts = {
    rows: Number(row?.["rows"] ?? 0),
    changedAt: row?.["changed"] ? String(row["changed"]) : null,
    marker,
  };
  cache.set(key, facts);
  return facts;
}

async function keepsCommitTimes(ask: Ask): Promise<boolean> {
  const [row] = await ask("SELECT current_setting('track_commit_timestamp') AS setting", []);
  return row?.["setting"] === "on";
}
