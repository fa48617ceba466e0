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

/**
 * Write counters of a table and of its parts: cheap, and different after every committed change, but also after one that was rolled
 * back. Empty for a view and for a table of another server, which have none, and for what is not there.
 */
export async function changeMarker(ask: Ask, reference: TableReference): Promise<string> {
  const [row] = await ask(
    `WITH RECURSIVE part AS (
       SELECT c.oid, c.relkind FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relname = $2
       UNION ALL SELECT i.inhrelid, part.relkind FROM pg_inherits i JOIN part ON i.inhparent = part.oid
     )
     SELECT min(part.relkind::text) AS kind, string_agg(concat_ws('/', part.oid, pg_relation_filenode(part.oid), s.n_tup_ins, s.n_tup_upd, s.n_tup_del, pg_relation_size(part.oid)), ', ' ORDER BY part.oid) AS marker
     FROM part LEFT JOIN pg_stat_all_tables s ON s.relid = part.oid`,
    [reference.schema, reference.table],
  );
  const counted = row?.["kind"] !== "v" && row?.["kind"] !== "f";
  return counted ? String(row?.["marker"] ?? "") : "";
}

/**
 * What a table holds, as everybody sees it who reads what was committed: different after every committed change, and the same after
 * one that was rolled back and after maintenance, which moves rows but keeps which transaction wrote them. One pass over the table.
 */
export async function contentMarker(ask: Ask, reference: TableReference): Promise<string> {
  const [row] = await ask(
    `SELECT count(*)::text AS rows, coalesce(sum(hashtextextended(xmin::text, 0)), 0)::text AS writers FROM ${quoteTable(reference)}`,
    [],
  );
  return `${String(row?.["rows"])}/${String(row?.["writers"])}`;
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
