import { changePart } from "@/core/pipeline/edit/parts";
import { failure, problem, success, type Problem, type Result } from "@/core/problem";
import { takeTurn } from "@/store/database";
import { draftOf } from "@/store/drafts";
import { openRuns, renameWithVersion } from "@/store/pipeline-lives";
import { findPipeline, newestVersion, type PipelineRow, type PipelineVersionRow } from "@/store/pipelines";
import { noteBehind } from "@/store/publications";
import { checkText } from "../check-file";
import type { Context } from "../context";
import { parseFile } from "../parse-file";
import { withdrawAllFunctions } from "../publish";
import { reconcileFunctions } from "../reconcile";
import { saveFile } from "../save-file";
import { waitingFor } from "./remove";
import { whyTaken } from "./taken";

/** Why a pipeline cannot have another name now. */
async function obstacle(
  { store: { db } }: Context,
  pipeline: PipelineRow,
  name: string,
): Promise<Problem | undefined> {
  const taken = await whyTaken(db, name, pipeline.id);
  if (taken) return taken;
  const draft = await draftOf(db, pipeline.id);
  if (draft && draft.text !== (await newestVersion(db, pipeline.id))?.text)
    return problem(
      "draft_open",
      "The file has unsaved changes.",
      "Save them in the Braid, or go back to the newest version there; then change this.",
    );
  return (await openRuns(db, pipeline.id)).length > 0
    ? problem(
        "runs_open",
        `Runs of "${pipeline.name}" are waiting or running.`,
        "Rename it when they have ended, or cancel them.",
      )
    : undefined;
}

/**
 * Gives a pipeline another name, in the next version of its file; functions in the warehouse follow, and so do schedules of others that
 * wait for its deliveries. What was delivered stays where it is, and counts as its own.
 * Problems: name_taken, draft_open, runs_open, and those of the file.
 */
export async function renamePipeline(
  context: Context,
  pipeline: PipelineRow,
  name: string,
): Promise<Result<PipelineVersionRow>> {
  const { store, warehouse } = context;
  const newest = await newestVersion(store.db, pipeline.id);
  if (!newest) return failure(problem("unknown_pipeline", "Pipeline not found."));
  const changed = changePart(newest.text, ["name"], name);
  if (!changed.ok) return changed;
  const checked = await checkText(changed.value, warehouse);
  if (!checked.ok) return checked;
  const waiting = await waitingFor(context, pipeline.name);
  const saved = await takeTurn(store, pipeline.id, true, async (): Promise<Result<PipelineVersionRow>> => {
    const barred = await obstacle(context, pipeline, name);
    if (barred) return failure(barred);
    await noteBehind(store.db, pipeline.id);
    // By their old name nobody would find them afterwards.
    await withdrawAllFunctions(context, pipeline.name);
    const version = {
      text: changed.value,
      planHash: checked.value.hash,
      note: `renamed from ${pipeline.name}`,
    };
    return success(await renameWithVersion(store.db, pipeline, name, version));
  });
  await reconcileFunctions(context);
  if (!saved?.ok) return saved ?? failure(problem("unknown_pipeline", "Pipeline not found."));
  const left = [];
  for (const run of waiting) if (!(await waitFor(context, run, pipeline.name, name))) left.push(run.name);
  return left.length === 0
    ? saved
    : failure(
        problem(
          "still_waiting",
          `"${pipeline.name}" is now named "${name}", but the file of ${left.map((text) => `"${text}"`).join(", ")} could not be changed, which waits for it.`,
          `Write after: ${name} in its schedule.`,
        ),
      );
}

/** Lets the schedules of a pipeline wait for another name. Tells whether its file could be changed. */
async function waitFor(context: Context, waiting: PipelineRow, from: string, to: string): Promise<boolean> {
  const { db } = context.store;
  const [now, newest, draft] = [
    await findPipeline(db, waiting.name),
    await newestVersion(db, waiting.id),
    await draftOf(db, waiting.id),
  ];
  if (!now || !newest || (draft && draft.text !== newest.text)) return false;
  const parsed = await parseFile(newest.text);
  if (!parsed.ok) return false;
  const places = parsed.value.file.schedules.flatMap(({ after }, place) => (after === from ? [place] : []));
  const text = places.reduce<Result<string>>(
    (made, place) => (made.ok ? changePart(made.value, ["schedules", place, "after"], to) : made),
    success(newest.text),
  );
  if (!text.ok) return false;
  const saved = await saveFile(context, text.value, {
    note: `${from} is now named ${to}`,
    basedOn: newest.number,
  });
  return saved.ok;
}
