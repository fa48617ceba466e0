import { changePart } from "@/core/pipeline/edit/parts";
import { failure, problem, type Result } from "@/core/problem";
import { newestVersion, type PipelineRow, type SavedVersion } from "@/store/pipelines";
import type { Context } from "../context";
import { NONE_YET, saveFile } from "../save-file";

/** Parts of a file that would deliver or run a second time if a copy had them too. */
const LEFT_OUT = ["delivery", "schedules", "functions", "retraining"] as const;

/**
 * Makes a new pipeline of the newest version of another: all but what delivers or runs by itself.
 * Problems: unknown_pipeline, unreadable_file, name_taken, and those of the file.
 */
export async function copyPipeline(
  context: Context,
  pipeline: Pick<PipelineRow, "id" | "name">,
  name: string,
): Promise<Result<SavedVersion>> {
  const newest = await newestVersion(context.store.db, pipeline.id);
  if (!newest) return failure(problem("unknown_pipeline", "Pipeline not found."));
  let { text } = newest;
  for (const [part, value] of [
    ["name", name] as const,
    ...LEFT_OUT.map((text) => [text, undefined] as const),
  ]) {
    const changed = changePart(text, [part], value);
    if (!changed.ok) return changed;
    text = changed.value;
  }
  return saveFile(context, text, {
    basedOn: NONE_YET,
    note: `copied from ${pipeline.name}, version ${newest.number} of its file`,
  });
}
