import type { CatalogColumn } from "@/core/plan/catalog";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Task } from "@/core/learn/task";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { isHidden } from "@/core/sql/hidden";
import type { ModelRow } from "@/store/models";
import type { Warehouse } from "@/warehouse/warehouse";
import { holdoutOf, isOutput } from "./holdout";

/** What a version predicts, and the columns of its judged rows that people know. */
export async function modelView(
  warehouse: Warehouse,
  model: ModelRow,
  file: PipelineFile | undefined,
): Promise<{ readonly task: Task; readonly columns: readonly CatalogColumn[] }> {
  const kind = file?.roles.target.kind ?? "binary";
  const table = await holdoutOf(warehouse, model);
  return {
    task: kind === "classes" ? { kind, classes: model.shape.classes ?? [] } : { kind },
    columns: (table?.columns ?? []).filter(
      (each) => !isOutput(each.name) && each.name !== TARGET_COLUMN && !isHidden(each.name),
    ),
  };
}
