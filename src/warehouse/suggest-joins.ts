import type { Catalog, CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import { areComparable, isMoment, isNumber } from "@/core/value-type";
import { writeTableName } from "@/core/pipeline/table-name";
import { overlapQuestion, type Overlap } from "@/core/questions/overlap";
import type { TableReference } from "@/core/relation/relation";
import { failureOf } from "./engines";
import type { KeyListing } from "./port/catalog";
import type { Warehouse } from "./port/warehouse";

/** Two tables that can be joined, with what was measured. */
export interface JoinSuggestion {
  readonly table: string;
  readonly columns: readonly { readonly here: string; readonly there: string }[];
  readonly because: "foreign key" | "name and type";
  /** Undefined where measuring took too long. */
  readonly overlap: Overlap | undefined;
}

export interface JoinSuggestions {
  readonly found: readonly JoinSuggestion[];
  /** Pairs of columns that share a name and a type but were not compared, because there are too many. */
  readonly left: number;
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

interface Candidate {
  readonly other: TableReference;
  readonly columns: JoinSuggestion["columns"];
  readonly because: JoinSuggestion["because"];
}

/** Joins that foreign keys name, in either direction of their columns' names. */
const byForeignKey = (keys: readonly KeyListing[]): readonly Candidate[] =>
  keys.flatMap(({ references, columns }) =>
    references
      ? [
          {
            other: references,
            columns: columns.map((here, index) => ({ here, there: references.columns[index]! })),
            because: "foreign key" as const,
          },
        ]
      : [],
  );

/** Pairs of columns of other tables that may mean the same. */
const byMeaning = (catalog: Catalog, table: CatalogTable, scratch: string): readonly Candidate[] =>
  catalog.tables
    .filter(
      (other) => other.schema !== scratch && (other.schema !== table.schema || other.table !== table.table),
    )
    .flatMap((other) =>
      table.columns.filter(joinable).flatMap((here) =>
        other.columns
          .filter((there) => joinable(there) && sameMeaning(here, there, other))
          .map((there) => ({
            other,
            columns: [{ here: here.name, there: there.name }],
            because: "name and type" as const,
          })),
      ),
    );

/** Pairs whose names say that one row names the other first, then those within one schema. */
function likeliestFirst(guessed: readonly Candidate[], table: CatalogTable): readonly Candidate[] {
  const rankOf = ({ other, columns }: Candidate): number =>
    (columns.some((pair) => pair.here !== pair.there) ? 0 : 2) + (other.schema === table.schema ? 0 : 1);
  return [...guessed].sort((left, right) => rankOf(left) - rankOf(right));
}

const nameOf = ({ other, columns }: Candidate): string =>
  JSON.stringify([other.schema, other.table, columns]);

/**
 * Joins that a table suggests: from foreign keys, whatever their columns are called, and from name, type and a measured
 * overlap of values. The best come first; what took too long to measure comes last, and says so.
 * @param all whether every pair of like columns is measured, however many there are
 */
export async function suggestJoins(
  warehouse: Warehouse,
  catalog: Catalog,
  table: CatalogTable,
  all = false,
): Promise<JoinSuggestions> {
  const known = byForeignKey(await warehouse.catalog.keys(table));
  const taken = new Set(known.map(nameOf));
  const guessed = byMeaning(catalog, table, warehouse.config.scratchSchema).filter(
    (candidate) => !taken.has(nameOf(candidate)),
  );
  const room = all ? guessed.length : Math.max(0, MOST_CANDIDATES - known.length);
  const candidates = [...known, ...likeliestFirst(guessed, table).slice(0, room)];
  const found: JoinSuggestion[] = [];
  for (const candidate of candidates) {
    const overlap = await overlapOf(warehouse, table, candidate).catch((error: unknown) => {
      if (isTimeout(error)) return undefined;
      throw error;
    });
    const chance = overlap && Math.max(overlap.matchedHere, overlap.matchedThere) < LEAST_OVERLAP;
    if (candidate.because !== "foreign key" && chance) continue;
    found.push({
      table: writeTableName(candidate.other),
      columns: candidate.columns,
      because: candidate.because,
      overlap,
    });
  }
  return {
    found: found.sort(
      (left, right) =>
        Number(left.overlap === undefined) - Number(right.overlap === undefined) ||
        Number((left.overlap?.mostThere ?? 0) > 1) - Number((right.overlap?.mostThere ?? 0) > 1) ||
        (right.overlap?.matchedHere ?? 0) - (left.overlap?.matchedHere ?? 0),
    ),
    left: known.length + guessed.length - candidates.length,
  };
}

/** A statement that the warehouse ended for its length, or that waited too long for a lock. */
const isTimeout = (error: unknown): boolean => {
  const kind = failureOf(error)?.kind;
  return kind === "timeout" || kind === "cancelled" || kind === "busy";
};

function overlapOf(
  warehouse: Warehouse,
  table: CatalogTable,
  { other, columns }: Candidate,
): Promise<Overlap> {
  const question = overlapQuestion(
    { source: table, columns: columns.map((pair) => pair.here) },
    { source: other, columns: columns.map((pair) => pair.there) },
  );
  return warehouse.ask(question, { milliseconds: MILLISECONDS });
}
