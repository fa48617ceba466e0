import type { TableReference } from "@/core/relation/relation";
import type { Catalog, CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import { valueTypeFromName } from "@/core/value-type";
import type { KeyListing, TableListing, WarehouseCatalog } from "../port/catalog";
import { changeMarker, contentMarker, factsOf, keptFacts, type Ask } from "./facts";
import type { PostgresWarehouse } from "./warehouse";

const VISIBLE = `n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname NOT LIKE 'pg\\_%' AND has_schema_privilege(n.oid, 'USAGE')`;

/**
 * Different after every committed change of tables, columns, types, schemas and of who may see them: the
 * rows of PostgreSQL's own
 * catalog are counted and the transactions that wrote them summed up, since a later one always has a
 * greater number.
 */
const CATALOG_MARKER = `SELECT concat_ws('/', ${[
  "pg_class",
  "pg_attribute",
  "pg_type",
  "pg_namespace",
  "pg_auth_members",
]
  .map((table) => `(SELECT concat_ws('+', count(*), sum(xmin::text::bigint)) FROM ${table})`)
  .join(", ")}) AS marker`;

interface KeptCatalog {
  readonly marker: string;
  readonly readAt: number;
  readonly catalog: Catalog;
}

/**
 * What the marker does not show, such as a role that may see everything from now on, is seen after this
 * long.
 */
const KEEPING_MILLISECONDS = 60_000;

const kept = new WeakMap<PostgresWarehouse, KeptCatalog>();

/** Names and types of every table and view that the reader may read; read again only when something changed. */
async function readCatalog(warehouse: PostgresWarehouse): Promise<Catalog> {
  const [row] = await warehouse.read(CATALOG_MARKER);
  const marker = String(row?.["marker"]);
  const earlier = kept.get(warehouse);
  const readAt = performance.now();
  if (earlier?.marker === marker && readAt - earlier.readAt < KEEPING_MILLISECONDS) return earlier.catalog;
  const catalog = await readWholeCatalog(warehouse);
  kept.set(warehouse, { marker, readAt, catalog });
  return catalog;
}

async function readWholeCatalog(warehouse: PostgresWarehouse): Promise<Catalog> {
  const rows = await warehouse.read(
    `SELECT n.nspname AS schema, c.relname AS table, a.attname AS name, format_type(a.atttypid, a.atttypmod) AS declared,
       coalesce(b.typname, t.typname) AS base, format_type(coalesce(b.oid, t.oid), NULL) AS base_name, NOT a.attnotnull AS nullable
     FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
     JOIN pg_type t ON t.oid = a.atttypid LEFT JOIN pg_type b ON b.oid = nullif(t.typbasetype, 0)
     WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND ${VISIBLE} AND has_table_privilege(c.oid, 'SELECT')
     ORDER BY n.nspname, c.relname, a.attnum`,
  );
  const tables = new Map<string, { schema: string; table: string; columns: CatalogColumn[] }>();
  for (const row of rows) {
    const schema = String(row["schema"]);
    const table = String(row["table"]);
    const key = JSON.stringify([schema, table]);
    const entry = tables.get(key) ?? { schema, table, columns: [] };
    entry.columns.push({
      name: String(row["name"]),
      declared: String(row["declared"]),
      type: valueTypeFromName(String(row["base_name"])),
      nullable: row["nullable"] === true,
    });
    tables.set(key, entry);
  }
  return { tables: [...tables.values()] satisfies CatalogTable[] };
}

/** Tables and views by schema, or one of them, with what PostgreSQL knows about their size. */
async function listTables(
  warehouse: PostgresWarehouse,
  only?: TableReference,
): Promise<readonly TableListing[]> {
  const rows = await warehouse.read(
    `SELECT n.nspname AS schema, c.relname AS table, c.relkind IN ('v', 'm') AS is_view, nullif(c.reltuples, -1)::double precision AS estimate,
       pg_total_relation_size(c.oid)::double precision AS bytes, greatest(s.last_analyze, s.last_autoanalyze, s.last_autovacuum) AS analysed,
       (SELECT count(*) FROM pg_attribute a WHERE a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped) AS columns, obj_description(c.oid) AS comment
     FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace LEFT JOIN pg_stat_all_tables s ON s.relid = c.oid
     WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND ${VISIBLE} AND has_table_privilege(c.oid, 'SELECT')
       AND ($1::text IS NULL OR (n.nspname = $1 AND c.relname = $2)) ORDER BY 1, 2`,
    [only?.schema ?? null, only?.table ?? null],
  );
  return rows.map((row) => ({
    schema: String(row["schema"]),
    table: String(row["table"]),
    kind: row["is_view"] === true ? "view" : "table",
    estimatedRows: row["estimate"] === null ? null : Number(row["estimate"]),
    bytes: Number(row["bytes"]),
    analysedAt: row["analysed"] === null ? null : String(row["analysed"]),
    columns: Number(row["columns"]),
    comment: row["comment"] === null ? null : String(row["comment"]),
  }));
}

/** Primary, unique and foreign keys of one table. */
async function listKeys(
  warehouse: PostgresWarehouse,
  { schema, table }: TableReference,
): Promise<readonly KeyListing[]> {
  const rows = await warehouse.read(
    `SELECT k.contype AS kind, (SELECT json_agg(a.attname ORDER BY u.place) FROM unnest(k.conkey) WITH ORDINALITY u(number, place) JOIN pg_attribute a ON a.attrelid = k.conrelid AND a.attnum = u.number) AS columns,
       CASE WHEN k.contype = 'f' THEN k.confrelid::regclass::text END AS target,
       CASE WHEN k.contype = 'f' THEN (SELECT json_build_object('schema', tn.nspname, 'table', t.relname, 'columns', (SELECT json_agg(a.attname ORDER BY u.place) FROM unnest(k.confkey) WITH ORDINALITY u(number, place) JOIN pg_attribute a ON a.attrelid = k.confrelid AND a.attnum = u.number)) FROM pg_class t JOIN pg_namespace tn ON tn.oid = t.relnamespace WHERE t.oid = k.confrelid) END AS "references"
     FROM pg_constraint k JOIN pg_class c ON c.oid = k.conrelid JOIN pg_namespace n ON n.oid = c.relnamespace
     WHERE n.nspname = $1 AND c.relname = $2 AND k.contype IN ('p', 'u', 'f') ORDER BY array_position(ARRAY['p', 'u', 'f'], k.contype::text)`,
    [schema, table],
  );
  const kinds: Readonly<Record<string, KeyListing["kind"]>> = {
    p: "primary key",
    u: "unique",
    f: "foreign key",
  };
  return rows.map((row) => ({
    kind: kinds[String(row["kind"])] ?? "unique",
    columns: row["columns"] as string[],
    target: row["target"] === null ? null : String(row["target"]),
    references: (row["references"] ?? null) as KeyListing["references"],
  }));
}

/** Whether a table holds rows of its own, so that blocks of them can be drawn: a view does not. */
async function isStored(warehouse: PostgresWarehouse, { schema, table }: TableReference): Promise<boolean> {
  const [found] = await warehouse.read(
    "SELECT c.relkind IN ('r', 'p', 'm') AS stored FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relname = $2",
    [schema, table],
  );
  return found?.["stored"] === true;
}

/** How long counting the rows of a table may take when nobody ordered it, before the server ends it. */
const COUNT_MILLISECONDS = 20_000;

/** What tables a warehouse has, as its reader sees them. */
export function catalogOf(warehouse: PostgresWarehouse): WarehouseCatalog {
  const within =
    (milliseconds = COUNT_MILLISECONDS): Ask =>
    (sql, values) =>
      warehouse.read(sql, values, milliseconds);
  return {
    read: () => readCatalog(warehouse),
    tables: (only) => listTables(warehouse, only),
    keys: (table) => listKeys(warehouse, table),
    isStored: (table) => isStored(warehouse, table),
    facts: (table, milliseconds) => factsOf(warehouse.config, table, within(milliseconds)),
    keptFacts: (tables) => keptFacts(warehouse.config, tables, within()),
    changeMarker: (table, milliseconds) => changeMarker(within(milliseconds), table),
    contentMarker: (table, milliseconds) => contentMarker(within(milliseconds), table),
  };
}
