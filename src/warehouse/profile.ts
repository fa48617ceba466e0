import { formatNumber } from "@/core/format/numbers";
import type { ColumnProfile, HistogramBar } from "@/core/evaluate/table-profile";
import type { CatalogColumn } from "@/core/plan/catalog";
import type { TableReference } from "@/core/relation/relation";
import { quoteDouble, quoteIdentifier, quoteTable } from "@/core/sql/quote";
import { isMoment, isNumber } from "@/core/value-type";
import type { Warehouse } from "./warehouse";

const BARS = 24;
const TOP = 12;

/** Profiles one column of a table: counts, range, quartiles, and a histogram (numbers, moments) or the most frequent values. */
export const profileColumn = (
  warehouse: Warehouse,
  table: TableReference,
  column: CatalogColumn,
  milliseconds?: number,
): Promise<ColumnProfile> => profileRows(warehouse, quoteTable(table), column, milliseconds);

/** The same for the rows of a compiled SELECT. */
export const profileQuery = (
  warehouse: Warehouse,
  sql: string,
  column: Pick<CatalogColumn, "name" | "type">,
): Promise<ColumnProfile> => profileRows(warehouse, `(${sql}) AS "rows"`, column);

async function profileRows(
  warehouse: Warehouse,
  from: string,
  column: Pick<CatalogColumn, "name" | "type">,
  milliseconds?: number,
): Promise<ColumnProfile> {
  const name = quoteIdentifier(column.name);
  const measured = isNumber(column.type) || isMoment(column.type);
  const orderable =
    measured ||
    column.type === "text" ||
    column.type === "boolean" ||
    column.type === "interval" ||
    column.type === "time" ||
    column.type === "uuid";
  const comparable = orderable && column.type !== "boolean" && column.type !== "uuid";
  const clean =
    column.type === "real" || column.type === "double precision" ? `nullif(${name}, 'NaN')` : name;
  const parts = [
    "count(*) AS rows",
    `count(${name}) AS present`,
    orderable
      ? `count(DISTINCT ${name}) AS distinct_values`
      : `count(DISTINCT ${name}::text) AS distinct_values`,
    ...(comparable ? [`min(${name})::text AS smallest`, `max(${name})::text AS largest`] : []),
    ...(measured
      ? [`percentile_disc(ARRAY[0.25, 0.5, 0.75]) WITHIN GROUP (ORDER BY ${name})::text[] AS quartiles`]
      : []),
    ...(isNumber(column.type) ? [`avg(${clean})::double precision AS mean`] : []),
  ];
  const [row] = await warehouse.read(`SELECT ${parts.join(", ")} FROM ${from}`, [], milliseconds);
  const distinct = Number(row?.["distinct_values"] ?? 0);
  const rows = Number(row?.["rows"] ?? 0);
  const quartiles = row?.["quartiles"] as string[] | null | undefined;
  return {
    column: column.name,
    rows,
    missing: rows - Number(row?.["present"] ?? 0),
    distinct,
    smallest: textOf(row?.["smallest"]),
    largest: textOf(row?.["largest"]),
    quartiles: quartiles && quartiles[0] !== null ? [quartiles[0]!, quartiles[1]!, quartiles[2]!] : null,
    mean: row?.["mean"] === null || row?.["mean"] === undefined ? null : Number(row["mean"]),
    histogram: measured && distinct > TOP ? await histogram(warehouse, from, name, column, milliseconds) : [],
    topValues: measured && distinct > TOP ? [] : await topValues(warehouse, from, name, milliseconds),
  };
}

const textOf = (value: unknown): string | null =>
  value === null || value === undefined ? null : String(value);

async function topValues(
  warehouse: Warehouse,
  from: string,
  name: string,
  milliseconds?: number,
): Promise<ColumnProfile["topValues"]> {
  const rows = await warehouse.read(
    `SELECT left(${name}::text, 200) AS value, count(*) AS rows FROM ${from} WHERE ${name} IS NOT NULL GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT ${TOP}`,
    [],
    milliseconds,
  );
  return rows.map((row) => ({ value: String(row["value"]), rows: Number(row["rows"]) }));
}

async function histogram(
  warehouse: Warehouse,
  from: string,
  name: string,
  column: Pick<CatalogColumn, "type">,
  milliseconds?: number,
): Promise<readonly HistogramBar[]> {
  const moment = isMoment(column.type);
  const value = moment ? `extract(epoch FROM ${name})::double precision` : `${name}::double precision`;
  const isDouble = column.type === "real" || column.type === "double precision";
  const finiteNumber = isDouble ? `${name} NOT IN ('NaN', 'Infinity', '-Infinity')` : "true";
  const finite = moment ? `isfinite(${name})` : finiteNumber;
  const [range] = await warehouse.read(
    `SELECT min(${value}) AS low, max(${value}) AS high FROM ${from} WHERE ${name} IS NOT NULL AND ${finite}`,
    [],
    milliseconds,
  );
  const low = Number(range?.["low"] ?? 0);
  const high = Number(range?.["high"] ?? 0);
  if (!(high > low)) return [];
  const bucket = `least(${BARS}, width_bucket(${value}, ${quoteDouble(low)}, ${quoteDouble(high)}, ${BARS}))`;
  const rows = await warehouse.read(
    `SELECT ${bucket} AS bar, count(*) AS rows FROM ${from} WHERE ${name} IS NOT NULL AND ${finite} GROUP BY 1`,
    [],
    milliseconds,
  );
  const counts = new Map(rows.map((row) => [Number(row["bar"]), Number(row["rows"])]));
  const edge = (index: number): string => {
    const position = low + ((high - low) * index) / BARS;
    return moment ? new Date(position * 1000).toISOString().slice(0, 10) : formatNumber(position);
  };
  return Array.from({ length: BARS }, (_, index) => ({
    from: edge(index),
    to: edge(index + 1),
    rows: counts.get(index + 1) ?? 0,
  }));
}
