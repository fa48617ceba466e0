import { findTable, type CatalogTable } from "@/core/plan/catalog";
import { readCatalog } from "@/warehouse/catalog";
import type { Warehouse } from "@/warehouse/warehouse";

/** A table by the names in a request, as the catalog knows it: names from outside are only ever compared, never printed into SQL. */
export async function tableFromNames(
  warehouse: Warehouse,
  schema: string | null,
  table: string | null,
): Promise<CatalogTable | undefined> {
  if (!schema || !table) return undefined;
  return findTable(await readCatalog(warehouse), { schema, table });
}

/** A whole number from a request, within bounds. */
export function whole(text: string | null, fallback: number, most: number): number {
  const value = Number(text ?? fallback);
  return Number.isInteger(value) && value >= 0 ? Math.min(value, most) : fallback;
}
