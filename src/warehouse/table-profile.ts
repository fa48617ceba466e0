import { oddSpellings } from "@/core/evaluate/spellings";
import type { ColumnProfile, ColumnRemarks, TableProfile } from "@/core/evaluate/table-profile";
import type { CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import { lengthsQuestion, monthsQuestion, outliersQuestion } from "@/core/questions/profile/remarks";
import { valueCountsQuestion } from "@/core/questions/profile/values";
import { table as rowsOf, type Relation } from "@/core/relation/relation";
import { isMoment, isNumber } from "@/core/value-type";
import { profileColumn } from "./profile";
import type { Warehouse } from "./port/warehouse";

/** Texts with more different values than this are no categories, and their spellings are not compared. */
const MOST_SPELLINGS = 2000;
const MOST_MONTHS = 600;
/** How far beyond the quartiles a value is an outlier, in distances between them (Tukey 1977, the outer fences). */
const OUTER = 3;
/** A profile of a large table may take long; nobody waits for it on a page. */
const OPTIONS = { milliseconds: 30 * 60_000 };

/** Profiles all columns of a table, in the database. */
export async function profileTable(
  warehouse: Warehouse,
  table: CatalogTable,
  onColumn: (done: number) => void = () => undefined,
): Promise<TableProfile> {
  const started = performance.now();
  const columns: TableProfile["columns"][number][] = [];
  for (const column of table.columns) {
    const rows = rowsOf(table, [column.name]);
    const profile = await profileColumn(warehouse, rows, column, OPTIONS);
    columns.push({ ...profile, remarks: await remarksOn(warehouse, rows, column, profile) });
    onColumn(columns.length);
  }
  return { rows: columns[0]?.rows ?? 0, columns, took: performance.now() - started };
}

async function remarksOn(
  warehouse: Warehouse,
  rows: Relation,
  { name, type }: CatalogColumn,
  profile: ColumnProfile,
): Promise<ColumnRemarks> {
  const constant =
    profile.rows > 1 && profile.distinct <= 1 && (profile.missing === 0 || profile.distinct === 0);
  const likelyKey =
    profile.rows > 1 &&
    profile.missing === 0 &&
    profile.distinct === profile.rows &&
    !["double precision", "real", "json"].includes(type);
  const own: ColumnRemarks = { constant, likelyKey };
  if (type === "text") return { ...own, ...(await remarksOnText(warehouse, rows, name, profile)) };
  if (isNumber(type) && profile.quartiles) return { ...own, ...(await outliersOf(warehouse, rows, profile)) };
  if (!isMoment(type)) return own;
  return { ...own, months: [...(await warehouse.ask(monthsQuestion(rows, name, MOST_MONTHS), OPTIONS))] };
}

async function remarksOnText(
  warehouse: Warehouse,
  rows: Relation,
  name: string,
  { distinct }: ColumnProfile,
): Promise<Pick<ColumnRemarks, "lengths" | "spellings">> {
  const lengths = await warehouse.ask(lengthsQuestion(rows, name), OPTIONS);
  const isCategory = distinct > 1 && distinct <= MOST_SPELLINGS;
  const values = isCategory
    ? await warehouse.ask(valueCountsQuestion(rows, name, MOST_SPELLINGS), OPTIONS)
    : [];
  const spellings = oddSpellings(values);
  return { lengths, ...(spellings.length > 0 ? { spellings } : {}) };
}

async function outliersOf(
  warehouse: Warehouse,
  rows: Relation,
  { column, quartiles }: ColumnProfile,
): Promise<Pick<ColumnRemarks, "outliers">> {
  const [low, , high] = (quartiles ?? []).map(Number);
  const reach = OUTER * ((high ?? 0) - (low ?? 0));
  if (!(reach > 0)) return {};
  const [below, above] = [(low ?? 0) - reach, (high ?? 0) + reach];
  const outside = await warehouse.ask(outliersQuestion(rows, column, [below, above]), OPTIONS);
  return { outliers: { rows: outside, below, above } };
}
