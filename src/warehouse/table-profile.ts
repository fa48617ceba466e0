import { oddSpellings } from "@/core/evaluate/spellings";
import type { ColumnProfile, ColumnRemarks, TableProfile } from "@/core/evaluate/table-profile";
import type { CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import type { TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable, quoteText } from "@/core/sql/quote";
import { isMoment, isNumber } from "@/core/value-type";
import { profileColumn } from "./profile";
import type { Warehouse } from "./warehouse";

/** Texts with more different values than this are no categories, and their spellings are not compared. */
const MOST_SPELLINGS = 2000;
const MOST_MONTHS = 600;
/** How far beyond the quartiles a value is an outlier, in distances between them (Tukey 1977, the outer fences). */
const FENCE = 3;
/** A profile of a large table may take long; nobody waits for it on a page. */
const MILLISECONDS = 30 * 60_000;

/** Profiles all columns of a table, in the database. */
export async function profileTable(
  warehouse: Warehouse,
  table: CatalogTable,
  onColumn: (done: number) => void = () => undefined,
): Promise<TableProfile> {
  const started = performance.now();
  const columns: TableProfile["columns"][number][] = [];
  for (const column of table.columns) {
    const profile = await profileColumn(warehouse, table, column, MILLISECONDS);
    columns.push({ ...profile, remarks: await remarksOn(warehouse, table, column, profile) });
    onColumn(columns.length);
  }
  return { rows: columns[0]?.rows ?? 0, columns, took: performance.now() - started };
}

async function remarksOn(
  warehouse: Warehouse,
  table: TableReference,
  column: CatalogColumn,
  profile: ColumnProfile,
): Promise<ColumnRemarks> {
  const name = quoteIdentifier(column.name);
  const from = quoteTable(table);
  const constant =
    profile.rows > 1 && profile.distinct <= 1 && (profile.missing === 0 || profile.distinct === 0);
  const likelyKey =
    profile.rows > 1 &&
    profile.missing === 0 &&
    profile.distinct === profile.rows &&
    !["double precision", "real", "json"].includes(column.type);
  const ask = async (sql: string): Promise<readonly Readonly<Record<string, unknown>>[]> =>
    warehouse.read(sql, [], MILLISECONDS);
  const own: ColumnRemarks = { constant, likelyKey };
  if (column.type === "text") {
    const [row] = await ask(
      `SELECT min(length(${name})) AS shortest, percentile_disc(0.5) WITHIN GROUP (ORDER BY length(${name})) AS median, max(length(${name})) AS longest, count(*) FILTER (WHERE btrim(${name}) = '') AS empty FROM ${from}`,
    );
    const values =
      profile.distinct > 1 && profile.distinct <= MOST_SPELLINGS
        ? await ask(
            `SELECT left(${name}, 200) AS value, count(*) AS rows FROM ${from} WHERE ${name} IS NOT NULL GROUP BY 1`,
          )
        : [];
    const spellings = oddSpellings(
      values.map((value) => ({ value: String(value["value"]), rows: Number(value["rows"]) })),
    );
    return {
      ...own,
      lengths: {
        shortest: Number(row?.["shortest"] ?? 0),
        median: Number(row?.["median"] ?? 0),
        longest: Number(row?.["longest"] ?? 0),
        empty: Number(row?.["empty"] ?? 0),
      },
      ...(spellings.length > 0 ? { spellings } : {}),
    };
  }
  if (isNumber(column.type) && profile.quartiles) {
    const [low, , high] = profile.quartiles.map(Number);
    const reach = FENCE * ((high ?? 0) - (low ?? 0));
    if (!(reach > 0)) return own;
    const [below, above] = [(low ?? 0) - reach, (high ?? 0) + reach];
    const [row] = await ask(
      `SELECT count(*) AS rows FROM ${from} WHERE ${name} < ${quoteText(String(below))}::double precision OR ${name} > ${quoteText(String(above))}::double precision`,
    );
    return { ...own, outliers: { rows: Number(row?.["rows"] ?? 0), below, above } };
  }
  if (isMoment(column.type)) {
    const months = await ask(
      `SELECT to_char(${name}, 'YYYY-MM') AS month, count(*) AS rows FROM ${from} WHERE ${name} IS NOT NULL AND isfinite(${name}) GROUP BY 1 ORDER BY 1 LIMIT ${MOST_MONTHS}`,
    );
    return {
      ...own,
      months: months.map((month) => ({ month: String(month["month"]), rows: Number(month["rows"]) })),
    };
  }
  return own;
}
