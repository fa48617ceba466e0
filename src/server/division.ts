import { z } from "zod";
import { changePart } from "@/core/pipeline/edit/parts";
import { failure, problem, success, type Problem, type Result } from "@/core/problem";
import type { Context } from "@/runs/context";
import { countDivision, type DivisionCounts } from "@/runs/draft/division";
import { previewTime } from "@/runs/draft/preview";
import { openDraft } from "@/runs/draft/survey";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { nameInput } from "./answer/inputs";

const partInput = z.record(nameInput, z.unknown()).nullable().optional();
/** Roles of columns, and parts of the file that say how rows are divided, as they would be; null where one is taken out. */
export const divisionInput = z.object({ roles: partInput, holdout: partInput, folds: partInput });
export type DivisionInput = z.output<typeof divisionInput>;

/** What would become of the rows, and what is wrong with the parts as they would be. */
export interface DivisionPreview {
  readonly counts: DivisionCounts | undefined;
  readonly problems: readonly Problem[];
}

/** Counts how the rows of a pipeline would be divided if parts of its newest file were others. Saves nothing. */
export async function previewDivision(
  { store, warehouse, now }: Context,
  name: string,
  parts: DivisionInput,
): Promise<Result<DivisionPreview>> {
  const pipeline = await findPipeline(store.db, name);
  const version = pipeline && (await newestVersion(store.db, pipeline.id));
  if (!version) return failure(problem("unknown_pipeline", "Pipeline not found."));
  let { text } = version;
  const { roles, ...whole } = parts;
  const changes: readonly (readonly [path: readonly [string, ...string[]], value: unknown])[] = [
    ...Object.entries(roles ?? {}).map(([role, value]) => [["roles", role], value] as const),
    ...Object.entries(whole).map(([part, value]) => [[part], value] as const),
  ];
  for (const [path, value] of changes) {
    const changed = changePart(text, path, value ?? undefined);
    if (!changed.ok) return changed;
    text = changed.value;
  }
  const { plan, survey } = await openDraft(text, warehouse);
  const errors = survey.problems.filter(({ severity }) => severity === "error");
  if (!plan || errors.length > 0) return success({ counts: undefined, problems: errors });
  return success({
    counts: await countDivision(plan, warehouse, previewTime(await now())),
    problems: survey.problems.filter(({ location }) => location?.path?.[0] === "holdout"),
  });
}
