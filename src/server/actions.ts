"use server";
import { z } from "zod";
import { problem, type Problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { orderRun } from "@/runs/queue";
import { isTimed } from "@/runs/due";
import { nextSlots } from "@/core/schedule/slots";
import { saveFile } from "@/runs/save-file";
import { putInService, retire, takeBack, takeOutOfService } from "@/runs/service";
import { acknowledgeAlert } from "@/store/alerts";
import { announceRun } from "@/store/database";
import { modelById } from "@/store/models";
import { listSchedules, pipelineById, setSchedulePaused, settleSchedule } from "@/store/pipelines";
import { askCancel, runById } from "@/store/runs";
import { attempt, type Outcome } from "./attempt";
import { appContext, appQueue } from "./context";
import { findPipeline } from "@/store/pipelines";
import { discardDraft, keepDraft } from "@/store/drafts";

export type { Outcome } from "./attempt";

const refuse = (
  ...problems: readonly Problem[]
): { readonly ok: false; readonly problems: readonly Problem[] } => ({ ok: false, problems });

const saveSchema = z.object({
  text: z.string(),
  note: z.string().max(500).optional(),
  basedOn: z.number().int().optional(),
  expectedName: z.string().optional(),
});

/** Saves a pipeline file as a new version, if it is good and nobody else saved in the meantime. */
export async function savePipeline(
  input: z.infer<typeof saveSchema>,
): Promise<Outcome<{ name: string; version: number; fresh: boolean }>> {
  return attempt(async () => {
    const { text, note, basedOn, expectedName } = saveSchema.parse(input);
    const context = await appContext();
    const outcome = await saveFile(context, text, { note, basedOn, expectedName });
    if (!outcome.ok) return outcome;
    const saved = outcome.value;
    await discardDraft(context.store.db, saved.pipeline.id);
    return {
      ok: true,
      value: { name: saved.pipeline.name, version: saved.version.number, fresh: saved.fresh },
    };
  });
}

const draftSchema = z.object({
  pipeline: z.string(),
  text: z.string().max(2_000_000),
  basedOn: z.number().int(),
  revision: z.number().int(),
});

/** What a kept draft gives back: its new revision, or what somebody else kept meanwhile. */
export type KeptDraft =
  | { readonly revision: number }
  | { readonly meanwhile: { readonly text: string; readonly revision: number; readonly at: string } };

/** Keeps the unsaved state of a pipeline's file, unless somebody else kept another one since; no page is drawn anew. */
export async function saveDraft(input: z.infer<typeof draftSchema>): Promise<Outcome<KeptDraft>> {
  try {
    const { pipeline: name, text, basedOn, revision } = draftSchema.parse(input);
    const { store } = await appContext();
    const pipeline = await findPipeline(store.db, name);
    if (!pipeline) return refuse(problem("unknown_pipeline", "There is no such pipeline."));
    const kept = await keepDraft(store.db, { pipelineId: pipeline.id, text, basedOn, revision });
    if (typeof kept === "number") return { ok: true, value: { revision: kept } };
    return {
      ok: true,
      value: { meanwhile: { text: kept.text, revision: kept.revision, at: kept.updatedAt.toISOString() } },
    };
  } catch (error) {
    return refuse(...problemsOf(error));
  }
}

/** Throws the unsaved state away: the newest version is what counts again. */
export async function throwDraftAway(name: string): Promise<Outcome> {
  return attempt(async () => {
    const { store } = await appContext();
    const pipeline = await findPipeline(store.db, z.string().parse(name));
    if (pipeline) await discardDraft(store.db, pipeline.id);
    return { ok: true, value: undefined };
  });
}

const orderSchema = z.object({
  kind: z.enum(["train", "score"]),
  pipeline: z.string(),
  candidate: z.string().optional(),
  delivery: z.string().optional(),
});

/** Orders a training or scoring run; gives its id. */
export async function startRun(input: z.infer<typeof orderSchema>): Promise<Outcome<string>> {
  return attempt(async () => {
    const { kind, pipeline, candidate, delivery } = orderSchema.parse(input);
    const ordered = await orderRun(await appContext(), await appQueue(), {
      kind,
      pipeline,
      cause: "hand",
      options: { ...(candidate ? { candidate } : {}), ...(delivery ? { delivery } : {}) },
    });
    return ordered.ok ? { ok: true, value: ordered.value.id } : ordered;
  });
}

/** Asks a run to stop. */
export async function cancelRun(id: string): Promise<Outcome> {
  return attempt(async () => {
    const { store } = await appContext();
    await askCancel(store.db, z.uuid().parse(id));
    await announceRun(store, id);
    return { ok: true, value: undefined };
  });
}

/** Orders the same run once more, for the same logical time, with the pipeline's newest version. */
export async function runAgain(id: string): Promise<Outcome<string>> {
  return attempt(async () => {
    const context = await appContext();
    const run = await runById(context.store.db, z.uuid().parse(id));
    const pipeline = run && (await pipelineById(context.store.db, run.pipelineId));
    if (!run || !pipeline) return refuse(problem("unknown_run", "There is no such run."));
    const ordered = await orderRun(context, await appQueue(), {
      kind: run.kind,
      pipeline: pipeline.name,
      cause: "again",
      runTime: run.runTime,
      options: run.options,
    });
    return ordered.ok ? { ok: true, value: ordered.value.id } : ordered;
  });
}

const serviceReason = z.object({ by: z.string().trim().max(80), reason: z.string().trim().max(500) });
const told = (given: z.infer<typeof serviceReason>): { by?: string; reason?: string } => ({
  ...(given.by === "" ? {} : { by: given.by }),
  ...(given.reason === "" ? {} : { reason: given.reason }),
});

/** Puts a model version in service, or takes it out, with who did it and why. */
export async function changeService(
  modelId: number,
  inService: boolean,
  given: { readonly by: string; readonly reason: string },
): Promise<Outcome> {
  return attempt(async () => {
    const context = await appContext();
    const reason = told(serviceReason.parse(given));
    const model = await modelById(context.store.db, z.int().parse(modelId));
    const pipeline = model && (await pipelineById(context.store.db, model.pipelineId));
    if (!model || !pipeline) return refuse(problem("unknown_model", "There is no such model version."));
    if (inService) await putInService(context, model.id, reason);
    else await takeOutOfService(context, pipeline, reason);
    return { ok: true, value: undefined };
  });
}

/** Retires a version, or takes that back. */
export async function changeRetirement(modelId: number, retired: boolean): Promise<Outcome> {
  return attempt(async () => {
    const context = await appContext();
    await (retired ? retire : takeBack)(context, z.int().parse(modelId));
    return { ok: true, value: undefined };
  });
}

/** Notes that somebody has taken an alert on. */
export async function takeAlertOn(id: number, by: string): Promise<Outcome> {
  return attempt(async () => {
    const { store } = await appContext();
    if (!(await acknowledgeAlert(store.db, z.int().parse(id), z.string().trim().min(1).max(80).parse(by))))
      return refuse(
        problem("alert_gone", "Somebody has taken it on already, or it has cleared.", "Load the page again."),
      );
    return { ok: true, value: undefined };
  });
}

/** Lets a schedule's next time pass. */
export async function skipNextTime(id: number): Promise<Outcome> {
  return attempt(async () => {
    const { store, now } = await appContext();
    const schedule = (await listSchedules(store.db)).find((each) => each.id === id);
    if (!schedule || !isTimed(schedule))
      return refuse(problem("unknown_schedule", "There is no such schedule, or it does not run at times."));
    const from = new Date(Math.max((await now()).getTime(), schedule.doneUntil.getTime()));
    await settleSchedule(store.db, id, nextSlots(schedule.cron, schedule.zone, from, 1)[0]!);
    return { ok: true, value: undefined };
  });
}

/** Pauses a schedule or lets it go on. */
export async function pauseSchedule(id: number, paused: boolean): Promise<Outcome> {
  return attempt(async () => {
    const { store, now } = await appContext();
    if (!(await listSchedules(store.db)).some((each) => each.id === id))
      return refuse(problem("unknown_schedule", "There is no such schedule."));
    await setSchedulePaused(store.db, id, paused, await now());
    return { ok: true, value: undefined };
  });
}
