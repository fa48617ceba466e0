import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import type { CatalogTable } from "@/core/plan/catalog";
import { isOutputColumn } from "@/core/plan/score";
import { isHidden } from "@/core/sql/hidden";
import type { ModelRow } from "@/store/models";
import type { Warehouse } from "@/warehouse/warehouse";
import { tableFromNames } from "./tables";

/** Whether a column of a judged table is a number of the prediction. Versions of the first kind called it "probability". */
export const isOutput = (name: string): boolean => isOutputColumn(name) || name === "probability";

/** The table that keeps a version's scored holdout, with its columns in the order people want them. */
export async function holdoutOf(
  warehouse: Warehouse,
  model: Pick<ModelRow, "data" | "shape">,
): Promise<CatalogTable | undefined> {
  const table = await tableFromNames(warehouse, warehouse.config.scratchSchema, model.data.holdoutTable);
  if (!table) return undefined;
  const features = new Set([...model.shape.numbers, ...model.shape.categories.map((each) => each.column)]);
  const terms = new Set((model.shape.texts ?? []).flat());
  const columns = table.columns.filter((each) => !terms.has(each.name));
  const rank = (name: string): number =>
    isOutput(name) ? 1 : name === TARGET_COLUMN ? 2 : features.has(name) ? 3 : isHidden(name) ? 5 : 0;
  const key = table.columns[0]?.name;
  return {
    ...table,
    columns: columns.sort((left, right) =>
      left.name === key ? -1 : right.name === key ? 1 : rank(left.name) - rank(right.name),
    ),
  };
}
