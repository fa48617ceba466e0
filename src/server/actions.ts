"use server";
import { z } from "zod";
import { problem, success } from "@/core/problem";
import { orderAgain } from "@/runs/again";
import { orderRun } from "@/runs/queue";
import { isTimed } from "@/runs/due";
import { nextSlots } from "@/core/schedule/slots";
import { NONE_YET, saveFile } from "@/runs/save-file";
import { putInService, retire, takeBack, takeOutOfService } from "@/runs/service";
import { acknowledgeAlert } from "@/store/alerts";
import { announceRun } from "@/store/database";
import { modelById } from "@/store/models";
import {
  findPipeline,
  listSchedules,
  pipelineById,
  setSchedulePaused,
  settleSchedule,
} from "@/store/pipelines";
import { discardDraft, keepDraft } from "@/store/drafts";
import { askCancel } from "@/store/runs";
import { action, refuse } from "./answer/action";
import { fileInput, idInput, nameInput, remarkInput, uuidInput } from "./answer/inputs";
import { appContext, appQueue } from "./context";

/** Saves a pipeline file as a new version, if it is good and nobody else saved in the meantime. */
export const savePipeline = action(
  [
    z.object({
      text: fileInput,
      note: remarkInput(500).optional(),
      basedOn: z.int().optional(),
      expectedName: nameInput.optional(),
    }),
  ],
  async ({ text, note, basedOn, expectedName }) => {
    const context = await appContext();
    const outcome = await saveFile(context, text, { note, basedOn, expectedName });
    if (!outcome.ok) return outcome;
    const saved = outcome.value;
    await discardDraft(context.store.db, saved.pipeline.id);
    return success({ name: saved.pipeline.name, version: saved.version.number, fresh: saved.fresh });
  },
);

/** Saves the file of a pipeline that is not there yet. Problems: those of the file, and name_taken. */
export const saveNewPipeline = action([fileInput], async (text) => {
  const outcome = await saveFile(await appContext(), text, { basedOn: NONE_YET });
  return outcome.ok ? success({ name: outcome.value.pipeline.name }) : outcome;
});

/** What a kept draft gives back: its new revision, or what somebody else kept meanwhile. */
type KeptDraft =
  | { readonly revision: number }
  | { readonly meanwhile: { readonly text: string; readonly revision: number; readonly at: string } };

/** Keeps the unsaved state of a pipeline's file, unless somebody else kept another one since; no page is drawn anew. */
export const saveDraft = action(
  [z.object({ pipeline: nameInput, text: fileInput, basedOn: z.int(), revision: z.int() })],
  async ({ pipeline: name, text, basedOn, revision }) => {
    const { store } = await appContext();
    const pipeline = await findPipeline(store.db, name);
    if (!pipeline) return refuse(problem("unknown_pipeline", "Pipeline not found."));
    const kept = await keepDraft(store.db, { pipelineId: pipeline.id, text, basedOn, revision });
    const found: KeptDraft =
      typeof kept === "number"
        ? { revision: kept }
        : { meanwhile: { text: kept.text, revision: kept.revision, at: kept.updatedAt.toISOString() } };
    return success(found);
  },
  false,
);

/** Throws the unsaved state away: the newest version is what counts again. */
export const throwDraftAway = action([nameInput], async (name) => {
  const { store } = await appContext();
  const pipeline = await findPipeline(store.db, name);
  if (pipeline) await discardDraft(store.db, pipeline.id);
  return success(undefined);
});

/** Orders a training or scoring run; gives its id. */
export const startRun = action(
  [
    z.object({
      kind: z.enum(["train", "score"]),
      pipeline: nameInput,
      candidate: nameInput.optional(),
      delivery: nameInput.optional(),
    }),
  ],
  async ({ kind, pipeline, candidate, delivery }) => {
    const ordered = await orderRun(await appContext(), await appQueue(), {
      kind,
      pipeline,
      cause: "hand",
      options: { ...(candidate ? { candidate } : {}), ...(delivery ? { delivery } : {}) },
    });
    return ordered.ok ? success(ordered.value.id) : ordered;
  },
);

/** Asks a run to stop. */
export const cancelRun = action([uuidInput], async (id) => {
  const { store } = await appContext();
  await askCancel(store.db, id);
  await announceRun(store, id);
  return success(undefined);
});

/** Orders the same run once more, for the same logical time, with the pipeline's newest version. */
export const runAgain = action([uuidInput], async (id) => {
  const ordered = await orderAgain(await appContext(), await appQueue(), id);
  return ordered.ok ? success(ordered.value.id) : ordered;
});

/** Puts a model version in service, or takes it out, with who did it and why. */
export const changeService = action(
  [idInput, z.boolean(), z.object({ by: remarkInput(80), reason: remarkInput(500) })],
  async (modelId, inService, { by, reason }) => {
    const context = await appContext();
    const told = { ...(by === "" ? {} : { by }), ...(reason === "" ? {} : { reason }) };
    const model = await modelById(context.store.db, modelId);
    const pipeline = model && (await pipelineById(context.store.db, model.pipelineId));
    if (!model || !pipeline) return refuse(problem("unknown_model", "Model version not found."));
    if (inService) await putInService(context, model.id, told);
    else await takeOutOfService(context, pipeline, told);
    return success(undefined);
  },
);

/** Retires a version, or takes that back. */
export const changeRetirement = action([idInput, z.boolean()], async (modelId, retired) => {
  await (retired ? retire : takeBack)(await appContext(), modelId);
  return success(undefined);
});

/** Notes that somebody has taken an alert on. */
export const takeAlertOn = action([idInput, remarkInput(80).min(1)], async (id, by) => {
  const { store } = await appContext();
  if (await acknowledgeAlert(store.db, id, by)) return success(undefined);
  return refuse(problem("alert_gone", "It was already taken over, or it has cleared.", "Reload the page."));
});

/** Lets a schedule's next time pass. */
export const skipNextTime = action([idInput], async (id) => {
  const { store, now } = await appContext();
  const schedule = (await listSchedules(store.db)).find((schedule) => schedule.id === id);
  if (!schedule || !isTimed(schedule))
    return refuse(problem("unknown_schedule", "No schedule with set times has this name."));
  const from = new Date(Math.max((await now()).getTime(), schedule.doneUntil.getTime()));
  await settleSchedule(store.db, id, nextSlots(schedule.cron, schedule.zone, from, 1)[0]!);
  return success(undefined);
});

/** Pauses a schedule or lets it go on. */
export const pauseSchedule = action([idInput, z.boolean()], async (id, paused) => {
  const { store, now } = await appContext();
  if (!(await listSchedules(store.db)).some((schedule) => schedule.id === id))
    return refuse(problem("unknown_schedule", "Schedule not found."));
  await setSchedulePaused(store.db, id, paused, await now());
  return success(undefined);
});
