import { partsToSee, tableOfPart } from "@/core/evaluate/judged-part";
import { findTable } from "@/core/plan/catalog";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import type { CatalogTable } from "@/core/plan/catalog";
import { isOutputColumn } from "@/core/plan/score";
import { isHidden } from "@/core/names/hidden";
import type { ModelRow } from "@/store/models";
import type { Warehouse } from "@/warehouse/port/warehouse";

/** Whether a column of a judged table is a number of the prediction. Versions of the first kind called it "probability". */
export const isOutput = (name: string): boolean => isOutputColumn(name) || name === "probability";

/** The table that keeps a version's scored holdout, or its training rows where none are held out, with its columns in the order people want them. */
export async function holdoutOf(
  warehouse: Warehouse,
  model: Pick<ModelRow, "data" | "shape">,
): Promise<CatalogTable | undefined> {
  const [part = "holdout"] = partsToSee(model.data, false);
  const table = findTable(await warehouse.catalog.read(), {
    schema: warehouse.config.scratchSchema,
    table: tableOfPart(model.data, part) ?? "",
  });
  if (!table) return undefined;
  const features = new Set([
    ...model.shape.numbers,
    ...model.shape.categories.map((category) => category.column),
  ]);
  const terms = new Set((model.shape.texts ?? []).flat());
  const columns = table.columns.filter((column) => !terms.has(column.name));
  const key = table.columns[0]?.name;
  // The key, what people know, predictions, the answer, features made by steps, and what is hidden.
  const kinds: readonly ((name: string) => boolean)[] = [
    (name) => name === key,
    (name) => !isHidden(name) && !isOutput(name) && !features.has(name),
    isOutput,
    (name) => name === TARGET_COLUMN,
    (name) => features.has(name),
    () => true,
  ];
  const rank = (name: string): number => kinds.findIndex((isKind) => isKind(name));
  return { ...table, columns: columns.sort((left, right) => rank(left.name) - rank(right.name)) };
}
