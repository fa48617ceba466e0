import type { z } from "zod";
import { FUNCTIONS } from "@/core/expression/functions";
import { pipelineSchema } from "@/core/pipeline/schema";
import { writeTableName } from "@/core/pipeline/table-name";
import { STEP_KINDS } from "@/core/steps";
import { readCatalog } from "@/warehouse/catalog";
import { appContext } from "./context";

/** What the editor can offer: from the schema of the file and from the catalog. */
export interface EditorWords {
  readonly steps: readonly { readonly kind: string; readonly title: string; readonly settings: readonly { readonly name: string; readonly help: string }[] }[];
  readonly parts: readonly { readonly name: string; readonly help: string }[];
  readonly tables: readonly string[];
  readonly columns: readonly { readonly name: string; readonly table: string; readonly type: string }[];
  readonly functions: readonly { readonly name: string; readonly usage: string }[];
}

const settingsOf = (schema: z.ZodObject): { name: string; help: string }[] =>
  Object.entries(schema.shape).filter(([name]) => name !== "do").map(([name, each]) => ({ name, help: (each as z.ZodType).description ?? "" }));

/** Words for the editor's completion, from the schema of the file and today's catalog. */
export async function editorWords(): Promise<EditorWords> {
  const { warehouse } = await appContext();
  const { tables } = await readCatalog(warehouse);
  return {
    steps: STEP_KINDS.map((each) => ({ kind: each.kind, title: each.title, settings: settingsOf(each.settings) })),
    parts: settingsOf(pipelineSchema),
    tables: tables.map(writeTableName),
    columns: tables.flatMap((table) => table.columns.map((each) => ({ name: each.name, table: table.table, type: each.declared }))),
    functions: [...Object.entries(FUNCTIONS).map(([name, rule]) => ({ name, usage: rule.usage })), { name: "run_time", usage: "run_time(): the logical time of the run" }],
  };
}
