import type { CatalogColumn } from "@/core/plan/catalog";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Task } from "@/core/learn/task";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { isHidden } from "@/core/names/hidden";
import type { ModelRow } from "@/store/models";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { holdoutOf, isOutput } from "./holdout";

/** What a version predicts, and the columns of its judged rows that people know, of the types that they had before steps changed them. */
export async function modelView(
  warehouse: Warehouse,
  model: ModelRow,
  file: PipelineFile | undefined,
): Promise<{ readonly task: Task; readonly columns: readonly CatalogColumn[] }> {
  const kind = file?.roles.target.kind ?? "binary";
  const table = await holdoutOf(warehouse, model);
  const originals = new Map(
    (model.data.originals ?? []).flatMap(({ column, copy }) => {
      const kept = table?.columns.find(({ name }) => name === copy);
      return kept ? [[column, { ...kept, name: column }] as const] : [];
    }),
  );
  const plain = (table?.columns ?? []).filter(
    (column) => !isOutput(column.name) && column.name !== TARGET_COLUMN && !isHidden(column.name),
  );
  const encoded = [...originals.values()].filter(({ name }) => !plain.some((column) => column.name === name));
  return {
    task: kind === "classes" ? { kind, classes: model.shape.classes ?? [] } : { kind },
    columns: [...encoded, ...plain.map((column) => originals.get(column.name) ?? column)],
  };
}
