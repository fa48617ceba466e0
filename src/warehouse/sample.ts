import { hidden } from "@/core/sql/hidden";
import { quoteIdentifier, quoteTable } from "@/core/sql/quote";
import type { CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import type { Warehouse } from "./warehouse";

export interface Page {
  readonly columns: readonly string[];
  /** Values as text, as the database writes them; null where missing. */
  readonly rows: readonly (readonly (string | null)[])[];
}

/** Longest value shown in a grid, in characters. */
const MOST_CHARACTERS = 300;

/** Selects every named column as text, so that a grid shows exactly what the database holds. */
export function asText(columns: readonly string[]): string {
  return columns
    .map((name) => `left(${quoteIdentifier(name)}::text, ${MOST_CHARACTERS}) AS ${quoteIdentifier(name)}`)
    .join(", ");
}

/** The table whose rows are shown, so that rows are put in order by its values and not by the text they are shown as. */
const SHOWN = hidden("shown");

/** Rows of a table from a position on, in the order given or as stored. */
export async function pageOfTable(
  warehouse: Warehouse,
  table: CatalogTable,
  options: {
    readonly offset: number;
    readonly limit: number;
    readonly orderBy?: { readonly column: string; readonly descending: boolean } | undefined;
  },
): Promise<Page> {
  const columns = table.columns.map((column) => column.name);
  const sorted = table.columns.find((column) => column.name === options.orderBy?.column);
  const order = sorted
    ? ` ORDER BY ${orderOf(sorted)} ${options.orderBy?.descending ? "DESC" : "ASC"} NULLS LAST`
    : "";
  const rows = await warehouse.read(
    `SELECT ${asText(columns)} FROM ${quoteTable(table)} AS ${SHOWN}${order} LIMIT ${Math.trunc(options.limit)} OFFSET ${Math.trunc(options.offset)}`,
    [],
    20_000,
  );
  return { columns, rows: rows.map((row) => columns.map((name) => (row[name] ?? null) as string | null)) };
}

/** Values of types that the database may not put in order go by their text. */
function orderOf({ name, type }: CatalogColumn): string {
  const value = `${SHOWN}.${quoteIdentifier(name)}`;
  return type === "json" || type === "other" ? `${value}::text` : value;
}

/** Rows of a compiled SELECT. */
export async function pageOfQuery(
  warehouse: Warehouse,
  sql: string,
  columns: readonly string[],
  limit: number,
  offset = 0,
  tail = "",
  milliseconds = 20_000,
): Promise<Page> {
  const rows = await warehouse.read(
    `SELECT ${asText(columns)} FROM (${sql}) AS "page"${tail} LIMIT ${Math.trunc(limit)} OFFSET ${Math.trunc(offset)}`,
    [],
    milliseconds,
  );
  return { columns, rows: rows.map((row) => columns.map((name) => (row[name] ?? null) as string | null)) };
}
