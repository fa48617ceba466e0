"use server";
import { revalidatePath } from "next/cache";
import { z } from "zod";
import { parsePipeline } from "@/core/pipeline/parse";
import { changePart } from "@/core/pipeline/edit/parts";
import { problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { openBlindPart } from "@/runs/judging/blind";
import { orderRun } from "@/runs/queue";
import { draftOf } from "@/store/drafts";
import { modelById, remarkModel } from "@/store/models";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { savePipeline, type Outcome } from "./actions";
import { appContext, appQueue } from "./context";

const trialSchema = z.object({ pipeline: z.string(), candidate: z.string().optional(), without: z.array(z.string()).optional(), share: z.number().gt(0).max(1).optional() });

/** Orders one trial: a candidate, without some features, or on a share of the rows. */
export async function startTrial(input: z.infer<typeof trialSchema>): Promise<Outcome<string>> {
  try {
    const { pipeline, candidate, without, share } = trialSchema.parse(input);
    const options = { ...(candidate ? { candidate } : {}), ...(without && without.length > 0 ? { without } : {}), ...(share !== undefined && share < 1 ? { share } : {}) };
    const ordered = await orderRun(await appContext(), await appQueue(), { kind: "train", pipeline, cause: "hand", options });
    revalidatePath("/", "layout");
    return ordered.ok ? { ok: true, value: ordered.value.id } : ordered;
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

/** Changes parts of the newest version's file and saves it as the next version. Refused while a draft lies unsaved. */
async function changeFile(name: string, note: string, changes: readonly (readonly [path: readonly [string, ...(string | number)[]], value: unknown])[]): Promise<Outcome<{ version: number }>> {
  const { store } = await appContext();
  const pipeline = await findPipeline(store.db, name);
  const version = pipeline && (await newestVersion(store.db, pipeline.id));
  if (!pipeline || !version) return { ok: false, problems: [problem("unknown_pipeline", "There is no such pipeline.")] };
  const draft = await draftOf(store.db, pipeline.id);
  if (draft && draft.text !== version.text) return { ok: false, problems: [problem("draft_open", "The file has unsaved changes.", "Save them in the Braid, or go back to the newest version there; then change this.")] };
  let { text } = version;
  for (const [path, value] of changes) {
    const changed = changePart(text, path, value);
    if (!changed.ok) return changed;
    text = changed.value;
  }
  const saved = await savePipeline({ text, note, basedOn: version.number, expectedName: name });
  return saved.ok ? { ok: true, value: { version: saved.value.version } } : saved;
}

const candidateInput = z.object({ pipeline: z.string(), place: z.number().int().min(0).nullable(), candidate: z.record(z.string(), z.unknown()) });

/** Adds a candidate to the file, or replaces one. */
export async function saveCandidate(input: z.infer<typeof candidateInput>): Promise<Outcome<{ version: number }>> {
  try {
    const { pipeline, place, candidate } = candidateInput.parse(input);
    const count = await candidateCount(pipeline);
    const name = String(candidate["name"] ?? "");
    return await changeFile(pipeline, `${place === null ? "candidate added" : "candidate changed"}: ${name}`, [[["candidates", place ?? count], candidate]]);
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

/** Takes a candidate out of the file; versions it has made stay. */
export async function removeCandidate(pipeline: string, place: number): Promise<Outcome<{ version: number }>> {
  try {
    return await changeFile(z.string().parse(pipeline), "candidate removed", [[["candidates", z.number().int().min(0).parse(place)], undefined]]);
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

async function candidateCount(name: string): Promise<number> {
  const { store } = await appContext();
  const pipeline = await findPipeline(store.db, name);
  const version = pipeline && (await newestVersion(store.db, pipeline.id));
  const parsed = version && parsePipeline(version.text);
  return parsed?.ok ? parsed.value.file.candidates.length : 0;
}

const validationInput = z.object({ pipeline: z.string(), holdout: z.record(z.string(), z.unknown()), folds: z.record(z.string(), z.unknown()).nullable() });

/** Changes holdout and folds. */
export async function saveValidation(input: z.infer<typeof validationInput>): Promise<Outcome<{ version: number }>> {
  try {
    const { pipeline, holdout, folds } = validationInput.parse(input);
    return await changeFile(pipeline, "holdout and folds changed", [[["holdout"], holdout], [["folds"], folds ?? undefined]]);
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

const remarkInput = z.object({ model: z.number().int(), note: z.string().max(2000).nullable().optional(), starred: z.boolean().optional() });

/** Writes a note on a version, or marks it with a star. */
export async function remark(input: z.infer<typeof remarkInput>): Promise<Outcome> {
  try {
    const { model, note, starred } = remarkInput.parse(input);
    const { store } = await appContext();
    if (!(await modelById(store.db, model))) return { ok: false, problems: [problem("unknown_model", "There is no such model version.")] };
    await remarkModel(store.db, model, { ...(note === undefined ? {} : { note: note === "" ? null : note }), ...(starred === undefined ? {} : { starred }) });
    revalidatePath("/", "layout");
    return { ok: true, value: undefined };
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

/** Opens the blind part of a version: deliberately, once, on record. */
export async function openBlind(model: number): Promise<Outcome> {
  try {
    await openBlindPart(await appContext(), z.number().int().parse(model));
    revalidatePath("/", "layout");
    return { ok: true, value: undefined };
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}
