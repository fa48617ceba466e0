import { quoteTable } from "./dialect/quote";
import type { TableReference } from "@/core/relation/relation";
import type { TableFacts } from "../port/catalog";
import type { WarehouseConfig } from "../port/engine";
import type { Rows } from "./session";

/** How a question is put to the warehouse: by the reader, or by the session of a run, which can be cancelled. */
export type Ask = (sql: string, values: readonly unknown[]) => Promise<Rows>;

/** What is known of the tables of a warehouse, by quoted name. */
const known = new WeakMap<WarehouseConfig, Map<string, TableFacts>>();

const keyOf = ({ schema, table }: TableReference): string => quoteTable({ schema, table });

/**
 * Write counters of tables and of their parts, by quoted name: cheap, and different after every committed change,
 * but also after one that was rolled back. Empty for a view and for a table of another server, which have none;
 * what is not there is left out.
 */
async function changeMarkers(
  ask: Ask,
  references: readonly TableReference[],
): Promise<ReadonlyMap<string, string>> {
  const rows = await ask(
    `WITH RECURSIVE part AS (
       SELECT n.nspname, c.relname, c.oid, c.relkind FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
       JOIN unnest($1::text[], $2::text[]) AS wanted (schema, name) ON wanted.schema = n.nspname AND wanted.name = c.relname
       UNION ALL SELECT part.nspname, part.relname, i.inhrelid, part.relkind FROM pg_inherits i JOIN part ON i.inhparent = part.oid
     )
     SELECT part.nspname AS schema, part.relname AS table, min(part.relkind::text) AS kind,
       string_agg(concat_ws('/', part.oid, pg_relation_filenode(part.oid), s.n_tup_ins, s.n_tup_upd, s.n_tup_del, pg_relation_size(part.oid)), ', ' ORDER BY part.oid) AS marker
     FROM part LEFT JOIN pg_stat_all_tables s ON s.relid = part.oid GROUP BY part.nspname, part.relname`,
    [references.map(({ schema }) => schema), references.map(({ table }) => table)],
  );
  return new Map(
    rows.map(({ schema, table, kind, marker }) => [
      keyOf({ schema: String(schema), table: String(table) }),
      kind === "v" || kind === "f" ? "" : String(marker ?? ""),
    ]),
  );
}

/** The write counters of one table; empty for what has none, or is not there. */
export async function changeMarker(ask: Ask, reference: TableReference): Promise<string> {
  return (await changeMarkers(ask, [reference])).get(keyOf(reference)) ?? "";
}

/** What is known of tables since nothing was written to them, by one question for all; undefined for the others. */
export async function keptFacts(
  config: WarehouseConfig,
  references: readonly TableReference[],
  ask: Ask,
): Promise<readonly (TableFacts | undefined)[]> {
  const cache = known.get(config);
  if (!cache || references.length === 0) return references.map(() => undefined);
  const markers = await changeMarkers(ask, references);
  return references.map((reference) => {
    const kept = cache.get(keyOf(reference));
    return kept && kept.marker !== "" && markers.get(keyOf(reference)) === kept.marker ? kept : undefined;
  });
}

/**
 * What a table holds, as everybody sees it who reads what was committed: different after every committed change,
 * and the same after one that was rolled back and after maintenance, which moves rows but keeps which
 * transaction wrote them. One pass over the table.
 */
export async function contentMarker(ask: Ask, reference: TableReference): Promise<string> {
  const [row] = await ask(
    `SELECT count(*)::text AS rows, coalesce(sum(hashtextextended(xmin::text, 0)), 0)::text AS writers FROM ${quoteTable(reference)}`,
    [],
  );
  return `${String(row?.["rows"])}/${String(row?.["writers"])}`;
}

/** Exact rows and last change of a table, counted anew only when something was written since. */
export async function factsOf(
  config: WarehouseConfig,
  reference: TableReference,
  ask: Ask,
): Promise<TableFacts> {
  const cache = known.get(config) ?? new Map<string, TableFacts>();
  known.set(config, cache);
  const key = keyOf(reference);
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
