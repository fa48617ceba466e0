import type { CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import { keyCandidates } from "@/core/pipeline/proposal/propose-key";
import type { ColumnOutline, TableOutline } from "@/core/pipeline/proposal/outline";
import { freeName, hidden } from "@/core/sql/hidden";
import { quoteDouble, quoteIdentifier, quoteTable } from "@/core/sql/quote";
import type { ValueType } from "@/core/value-type";
import { listKeys } from "./catalog";
import { estimateRows } from "./estimate-rows";
import type { Warehouse } from "./warehouse";

/** Tables of up to so many rows are looked at whole, of larger ones a random part of about that size. */
const MOST_ROWS = 200_000;
/** Different values are counted in so many of them. */
const CLOSE_ROWS = 10_000;
/** Columns of one statement; each takes two places of a row of aggregates. */
const COLUMNS_AT_ONCE = 200;
/** Columns among which pairs are tried as keys. */
const PAIRED = 8;
const MILLISECONDS = 20_000;
/** Types that the warehouse can tell apart as they are; others are compared as text. */
const COMPARABLE: ReadonlySet<ValueType> = new Set<ValueType>([
  "boolean",
  "smallint",
  "integer",
  "bigint",
  "numeric",
  "real",
  "double precision",
  "date",
  "timestamp",
  "timestamptz",
  "uuid",
]);
/** Types whose values can be a part of a key. */
const PAIRABLE: ReadonlySet<ValueType> = new Set<ValueType>([
  "smallint",
  "integer",
  "bigint",
  "text",
  "uuid",
  "date",
  "timestamp",
  "timestamptz",
]);

/** Rows that are looked at, and the name of the column that numbers them. */
interface LookedRows {
  readonly sql: string;
  readonly number: string;
}

/** Looks at a table quickly, whatever its size: gaps and different values of every column, and what could be its key. */
export async function outlineTable(warehouse: Warehouse, table: CatalogTable): Promise<TableOutline> {
  const estimate = await estimateRows(warehouse, table);
  const sampled = estimate > MOST_ROWS && (await canBeSampled(warehouse, table));
  const share = sampled
    ? ` TABLESAMPLE SYSTEM (${quoteDouble((100 * MOST_ROWS) / estimate)}) REPEATABLE (1)`
    : "";
  const number = freeName(
    hidden("number"),
    table.columns.map(({ name }) => name),
  );
  const looked: LookedRows = {
    number,
    sql: `(SELECT *, row_number() OVER () AS ${quoteIdentifier(number)} FROM ${quoteTable(table)}${share} LIMIT ${2 * MOST_ROWS}) AS ${hidden("looked")}`,
  };
  const blocks = [];
  for (let start = 0; start < Math.max(1, table.columns.length); start += COLUMNS_AT_ONCE)
    blocks.push(await lookAt(warehouse, looked, table.columns.slice(start, start + COLUMNS_AT_ONCE)));
  const { rows, close } = blocks[0]!;
  const columns = blocks.flatMap((block) => block.columns);
  const present = new Set(columns.filter(({ missing }) => missing === 0).map(({ name }) => name));
  const keys = (await listKeys(warehouse, table.schema, table.table))
    .filter(({ kind }) => kind !== "foreign key")
    .map((key) => key.columns)
    .filter((names) => names.every((name) => present.has(name)));
  const outline = { rows, whole: !sampled && rows < 2 * MOST_ROWS, close, columns, keys };
  if (keys.length > 0 || close < 2 || keyCandidates(outline).length > 0) return outline;
  const pair = await namingPair(warehouse, looked, outline);
  return pair ? { ...outline, pair } : outline;
}

/** Views cannot be sampled by blocks. */
async function canBeSampled(warehouse: Warehouse, { schema, table }: CatalogTable): Promise<boolean> {
  const [found] = await warehouse.read(
    "SELECT c.relkind IN ('r', 'p', 'm') AS stored FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relname = $2",
    [schema, table],
  );
  return found?.["stored"] === true;
}

async function lookAt(
  warehouse: Warehouse,
  { sql, number }: LookedRows,
  columns: readonly CatalogColumn[],
): Promise<Pick<TableOutline, "rows" | "close" | "columns">> {
  const near = `FILTER (WHERE ${quoteIdentifier(number)} <= ${CLOSE_ROWS})`;
  const aggregates = columns.flatMap(({ name, type }, index) => {
    const column = quoteIdentifier(name);
    const value = COMPARABLE.has(type) ? column : `left(${column}::text, 200)`;
    return [
      `count(${column}) AS ${hidden(`present_${index}`)}`,
      `count(DISTINCT ${value}) ${near} AS ${hidden(`distinct_${index}`)}`,
    ];
  });
  const [row = {}] = await warehouse.read(
    `SELECT ${["count(*) AS rows", `count(*) ${near} AS close`, ...aggregates].join(", ")} FROM ${sql}`,
    [],
    MILLISECONDS,
  );
  const rows = Number(row["rows"]);
  return {
    rows,
    close: Number(row["close"]),
    columns: columns.map(({ name, type, declared }, index): ColumnOutline => ({
      name,
      type,
      declared,
      missing: rows - Number(row[hidden(`present_${index}`)]),
      distinct: Number(row[hidden(`distinct_${index}`)]),
    })),
  };
}

/** Two columns whose values name one row together, among those with the most different values. */
async function namingPair(
  warehouse: Warehouse,
  { sql, number }: LookedRows,
  { columns, close }: TableOutline,
): Promise<readonly [string, string] | undefined> {
  const able = columns
    .filter(({ type, missing }) => PAIRABLE.has(type) && missing === 0)
    .toSorted((left, right) => right.distinct - left.distinct)
    .slice(0, PAIRED);
  const pairs = able.flatMap((left, index) =>
    able
      .slice(index + 1)
      // Fewer combinations than rows cannot name each of them.
      .filter((right) => left.distinct * right.distinct >= close)
      .map((right): readonly [string, string] => [left.name, right.name]),
  );
  if (pairs.length === 0) return undefined;
  const counts = pairs.map(
    (pair, index) =>
      `count(DISTINCT (${pair.map(quoteIdentifier).join(", ")})) AS ${hidden(`pair_${index}`)}`,
  );
  const [row = {}] = await warehouse.read(
    `SELECT ${counts.join(", ")} FROM ${sql} WHERE ${quoteIdentifier(number)} <= ${CLOSE_ROWS}`,
    [],
    MILLISECONDS,
  );
  return pairs.find((_, index) => Number(row[hidden(`pair_${index}`)]) === close);
}

/** How a wished key holds over all rows of a table. */
export interface KeyState {
  /** Rows in which a column of it has no value. */
  readonly missing: number;
  /** Keys that several rows have. */
  readonly repeated: number;
}

/** Whether columns name every row of a table once. */
export async function stateOfKey(
  warehouse: Warehouse,
  table: CatalogTable,
  columns: readonly string[],
): Promise<KeyState> {
  const names = columns.map(quoteIdentifier);
  const absent = names.map((name) => `${name} IS NULL`).join(" OR ");
  const [row] = await warehouse.read(
    `SELECT coalesce(sum(${hidden("rows")}) FILTER (WHERE ${absent}), 0) AS missing, count(*) FILTER (WHERE ${hidden("rows")} > 1 AND NOT (${absent})) AS repeated FROM (SELECT ${names.join(", ")}, count(*) AS ${hidden("rows")} FROM ${quoteTable(table)} GROUP BY ${names.join(", ")}) AS ${hidden("keys")}`,
    [],
    MILLISECONDS,
  );
  return { missing: Number(row?.["missing"] ?? 0), repeated: Number(row?.["repeated"] ?? 0) };
}
