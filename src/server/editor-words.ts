import { z } from "zod";
import { FUNCTIONS } from "@/core/expression/functions";
import { pipelineSchema } from "@/core/pipeline/schema";
import { writeTableName } from "@/core/pipeline/table-name";
import { STEP_KINDS } from "@/core/steps";
import { settingsOf } from "@/core/steps/reference";
import { stepCommon } from "@/core/steps/step";
import { appContext } from "./context";
import { offeredTables } from "./tables";

/** A step kind in words, for palettes and forms. */
export interface StepWords {
  readonly kind: string;
  readonly title: string;
  readonly about: string;
  readonly words: readonly string[];
  readonly missing: string;
  readonly settings: readonly {
    readonly name: string;
    readonly help: string;
    readonly required: boolean;
    readonly initial: unknown;
  }[];
}

/** What the editor can offer: from the schema of the file and from the catalog. */
export interface EditorWords {
  readonly steps: readonly StepWords[];
  readonly parts: readonly { readonly name: string; readonly help: string }[];
  readonly tables: readonly string[];
  readonly functions: readonly { readonly name: string; readonly usage: string }[];
}

const partsOf = (schema: z.ZodObject): { name: string; help: string }[] =>
  Object.entries(schema.shape)
    .filter(([name]) => name !== "do")
    .map(([name, value]) => ({ name, help: (value as z.ZodType).description ?? "" }));

/** Settings that every kind has. */
const COMMON: StepWords["settings"] = partsOf(z.object(stepCommon)).map((part) => ({
  ...part,
  required: false,
  initial: undefined,
}));

/** Words for the editor's completion, from the schema of the file and today's catalog. */
export async function editorWords(): Promise<EditorWords> {
  const { warehouse } = await appContext();
  const { tables } = await offeredTables(warehouse);
  return {
    steps: STEP_KINDS.map((stepKind) => ({
      kind: stepKind.kind,
      title: stepKind.title,
      about: stepKind.help.about,
      words: stepKind.help.words,
      missing: stepKind.help.missing,
      settings: [...COMMON, ...settingsOf(stepKind)],
    })),
    parts: partsOf(pipelineSchema),
    tables: tables.map(writeTableName),
    functions: [
      ...Object.entries(FUNCTIONS).map(([name, rule]) => ({ name, usage: rule.usage })),
      { name: "run_time", usage: "run_time(): the logical time of the run" },
    ],
  };
}
