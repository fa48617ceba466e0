import type { TableFactsRow } from "@/store/table-facts";
import { z } from "zod";
import { findTable, type Catalog, type CatalogColumn, type CatalogTable } from "@/core/plan/catalog";
import type { TableReference } from "@/core/relation/relation";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { countText, nameInput } from "./answer/inputs";
import { unknown } from "./answer/route";

/** The names of a table in an address. */
export const tableInput = z.object({ schema: nameInput, table: nameInput });

/** Which rows of a table are wanted. */
export const pageInput = z.object({
  offset: countText(1e9).default(0),
  limit: countText(500).default(100),
  order: nameInput.optional(),
  descending: z.enum(["true", "false"]).default("false"),
});

/**
 * A table by the names in a request, as the catalog knows it: names from outside are only ever compared, never printed into SQL.
 * Problems: unknown_table.
 */
export async function knownTable(warehouse: Warehouse, names: TableReference): Promise<CatalogTable> {
  const found = findTable(await warehouse.catalog.read(), names);
  if (!found) throw unknown("unknown_table", "Table not found.");
  return found;
}

const offered = new WeakMap<Catalog, Catalog>();

/**
 * The tables that people choose from: all but what runs keep for themselves. The same object while the
 * catalog stays the same.
 */
export async function offeredTables(warehouse: Warehouse): Promise<Catalog> {
  const catalog = await warehouse.catalog.read();
  const known = offered.get(catalog);
  if (known) return known;
  const made = {
    tables: catalog.tables.filter(({ schema }) => schema !== warehouse.config.scratchSchema),
  };
  offered.set(catalog, made);
  return made;
}

/** A column of a table by its name in a request. Problems: unknown_column. */
export function knownColumn(table: CatalogTable, name: string): CatalogColumn {
  const found = table.columns.find((column) => column.name === name);
  if (!found) throw unknown("unknown_column", "Column not found.");
  return found;
}

/** The kept profile of a table with its time, and whether a newer one is being taken. */
export function profileState(facts: TableFactsRow | undefined) {
  const { profile = null, profiledAt = null, profileAskedAt = null } = facts ?? {};
  const problem = facts?.profileProblem ?? null;
  return {
    profile,
    profiledAt: profiledAt?.toISOString() ?? null,
    problem,
    refreshHours: facts?.refreshHours ?? null,
    underWay: profileAskedAt !== null && !problem && (profiledAt === null || profiledAt < profileAskedAt),
  };
}
