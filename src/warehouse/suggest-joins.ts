import type { Catalog, CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import { areComparable, isMoment, isNumber } from "@/core/value-type";
import { quoteIdentifier, quoteTable } from "@/core/sql/quote";
import { writeTableName } from "@/core/pipeline/table-name";
import { listKeys } from "./catalog";
import type { Warehouse } from "./warehouse";

/** Two tables that can be joined, with what was measured. */
export interface JoinSuggestion {
  readonly table: string;
  readonly columns: readonly { readonly here: string; readonly there: string }[];
  readonly because: "foreign key" | "name and type";
  /** Share of rows here (with a value) that find one there, and the other way round. */
  readonly matchedHere: number;
  readonly matchedThere: number;
  /** Most rows there for one value, and most rows here for one. */
  readonly mostThere: number;
  readonly mostHere: number;
}

const MOST_CANDIDATES = 24;
const MILLISECONDS = 15_000;
/** Less overlap than this is chance. */
const LEAST_OVERLAP = 0.05;
/** Names that many tables share without meaning the same. */
const COMMON: ReadonlySet<string> = new Set([
  "id",
  "name",
  "created_at",
  "updated_at",
  "note",
  "description",
  "status",
  "type",
  "value",
  "text",
]);

const joinable = (column: CatalogColumn): boolean =>
  !["double precision", "real", "json", "other", "boolean", "interval", "sparse"].includes(column.type) &&
  column.type !== "timestamptz" &&
  column.type !== "timestamp";

/** Whether two columns may mean the same: same name, or one is the other table's name with _id behind it. */
function sameMeaning(here: CatalogColumn, there: CatalogColumn, table: CatalogTable): boolean {
  if (
    !areComparable(here.type, there.type) ||
    isNumber(here.type) !== isNumber(there.type) ||
    isMoment(here.type) !== isMoment(there.type)
  )
    return false;
  const [left, right] = [here.name.toLowerCase(), there.name.toLowerCase()];
  if (left === right) return !COMMON.has(left);
  const singular = table.table.toLowerCase().replace(/s$/, "");
  return (
    (left === `${singular}_id` && right === "id") ||
    (left === singular && (right === "name" || right === "id" || right === `${singular}_id`))
  );
}

/** Joins that a table suggests: from foreign keys, and from name, type and a measured overlap of values. The best come first. */
export async function suggestJoins(
  warehouse: Warehouse,
  catalog: Catalog,
  table: CatalogTable,
): Promise<readonly JoinSuggestion[]> {
  const keys = await listKeys(warehouse, table.schema, table.table);
  const references = new Map(
    keys
      .filter((each) => each.kind === "foreign key" && each.columns.length === 1)
      .map((each) => [each.columns[0]!, each.target ?? ""]),
  );
  const candidates = catalog.tables
    .filter(
      (other) =>
        other.schema !== warehouse.config.scratchSchema &&
        (other.schema !== table.schema || other.table !== table.table),
    )
    .flatMap((other) =>
      table.columns.filter(joinable).flatMap((here) =>
        other.columns.filter(joinable).flatMap((there) => {
          const known =
            references.get(here.name)?.replaceAll('"', "") === `${other.schema}.${other.table}` &&
            there.name === here.name;
          return known || sameMeaning(here, there, other)
            ? [{ other, here, there, because: known ? ("foreign key" as const) : ("name and type" as const) }]
            : [];
        }),
      ),
    )
    .sort((left, right) => Number(right.because === "foreign key") - Number(left.because === "foreign key"))
    .slice(0, MOST_CANDIDATES);
  const found: JoinSuggestion[] = [];
  for (const { other, here, there, because } of candidates) {
    const measured = await overlap(warehouse, table, here, other, there).catch(() => undefined);
    if (
      !measured ||
      (because !== "foreign key" && Math.max(measured.matchedHere, measured.matchedThere) < LEAST_OVERLAP)
    )
      continue;
    found.push({
      table: writeTableName(other),
      columns: [{ here: here.name, there: there.name }],
      because,
      ...measured,
    });
  }
  return found.sort(
    (left, right) =>
      Number(left.mostThere > 1) - Number(right.mostThere > 1) || right.matchedHere - left.matchedHere,
  );
}

async function overlap(
  warehouse: Warehouse,
  left: CatalogTable,
  here: CatalogColumn,
  right: CatalogTable,
  there: CatalogColumn,
): Promise<Pick<JoinSuggestion, "matchedHere" | "matchedThere" | "mostHere" | "mostThere">> {
  const [a, b] = [quoteIdentifier(here.name), quoteIdentifier(there.name)];
  const [row] = await warehouse.read(
    `WITH l AS (SELECT ${a} AS k, count(*) AS n FROM ${quoteTable(left)} WHERE ${a} IS NOT NULL GROUP BY 1), r AS (SELECT ${b} AS k, count(*) AS n FROM ${quoteTable(right)} WHERE ${b} IS NOT NULL GROUP BY 1)
     SELECT (SELECT sum(n) FROM l) AS left_rows, (SELECT sum(n) FROM r) AS right_rows, (SELECT max(n) FROM l) AS left_most, (SELECT max(n) FROM r) AS right_most, sum(l.n) AS left_matched, sum(r.n) AS right_matched FROM l JOIN r ON l.k = r.k`,
    [],
    MILLISECONDS,
  );
  const share = (part: unknown, whole: unknown): number =>
    Number(whole ?? 0) > 0 ? Number(part ?? 0) / Number(whole) : 0;
  return {
    matchedHere: share(row?.["left_matched"], row?.["left_rows"]),
    matchedThere: share(row?.["right_matched"], row?.["right_rows"]),
    mostHere: Number(row?.["left_most"] ?? 0),
    mostThere: Number(row?.["right_most"] ?? 0),
  };
}
