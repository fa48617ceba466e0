import { TARGET_COLUMN } from "@/core/plan/frame";
import { LOG_ODDS_COLUMN, PROBABILITY_COLUMN } from "@/core/plan/score";
import type { CatalogTable } from "@/core/plan/catalog";
import type { ModelRow } from "@/store/models";
import type { Warehouse } from "@/warehouse/warehouse";
import { tableFromNames } from "./tables";

/** The table that keeps a version's scored holdout, with its columns in the order people want them. */
export async function holdoutOf(warehouse: Warehouse, model: ModelRow): Promise<CatalogTable | undefined> {
  const table = await tableFromNames(warehouse, warehouse.config.scratchSchema, model.data.holdoutTable);
  if (!table) return undefined;
  const columns = table.columns.filter((each) => each.name !== LOG_ODDS_COLUMN);
  const features = new Set([...model.shape.numbers, ...model.shape.categories.map((each) => each.column)]);
  const rank = (name: string): number => (name === PROBABILITY_COLUMN ? 1 : name === TARGET_COLUMN ? 2 : features.has(name) ? 3 : 0);
  return { ...table, columns: columns.sort((left, right) => rank(left.name) - rank(right.name)) };
}
