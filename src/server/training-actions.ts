"use server";
import { z } from "zod";
import { problem, success } from "@/core/problem";
import { openBlindPart } from "@/runs/judging/blind";
import { explainAll } from "@/runs/judging/importance";
import { orderRun } from "@/runs/queue";
import { saveFile } from "@/runs/save-file";
import { discardDraft, draftOf } from "@/store/drafts";
import { findPipeline } from "@/store/pipelines";
import { modelById, remarkModel } from "@/store/models";
import { action, refuse } from "./answer/action";
import { idInput, nameInput, remarkInput } from "./answer/inputs";
import { appContext, appQueue } from "./context";

const MOST_FEATURES = 5000;

/** Orders one trial: a candidate, without some features, or on a share of the rows. */
export const startTrial = action(
  [
    z.object({
      pipeline: nameInput,
      candidate: nameInput.optional(),
      without: z.array(nameInput).max(MOST_FEATURES).optional(),
      share: z.number().gt(0).max(1).optional(),
    }),
  ],
  async ({ pipeline, candidate, without, share }) => {
    const options = {
      ...(candidate ? { candidate } : {}),
      ...(without && without.length > 0 ? { without } : {}),
      ...(share !== undefined && share < 1 ? { share } : {}),
    };
    const ordered = await orderRun(await appContext(), await appQueue(), {
      kind: "train",
      pipeline,
      cause: "hand",
      options,
    });
    return ordered.ok ? success(ordered.value.id) : ordered;
  },
);

/** Saves the draft of a pipeline as the next version of its file, and orders a training of that. */
export const saveAndTrain = action([nameInput], async (name) => {
  const context = await appContext();
  const { db } = context.store;
  const pipeline = await findPipeline(db, name);
  const draft = pipeline && (await draftOf(db, pipeline.id));
  if (!draft)
    return refuse(
      problem("no_draft", "The draft no longer exists.", "Reload the page, and train the saved version."),
    );
  const saved = await saveFile(context, draft.text, {
    note: "saved to be trained",
    basedOn: draft.basedOn,
    expectedName: name,
  });
  if (!saved.ok) return saved;
  await discardDraft(db, pipeline.id);
  const ordered = await orderRun(context, await appQueue(), { kind: "train", pipeline: name, cause: "hand" });
  return ordered.ok ? success(ordered.value.id) : ordered;
});

/** Writes a note on a version, or marks it with a star. */
export const remark = action(
  [
    z.object({
      model: idInput,
      note: remarkInput(2000).nullable().optional(),
      starred: z.boolean().optional(),
    }),
  ],
  async ({ model, note, starred }) => {
    const { store } = await appContext();
    if (!(await modelById(store.db, model)))
      return refuse(problem("unknown_model", "Model version not found."));
    await remarkModel(store.db, model, {
      ...(note === undefined ? {} : { note: note === "" ? null : note }),
      ...(starred === undefined ? {} : { starred }),
    });
    return success(undefined);
  },
);

/** Opens the blind part of a version: deliberately, once, on record. */
export const openBlind = action([idInput], async (model) => {
  await openBlindPart(await appContext(), model);
  return success(undefined);
});

/** How long a page waits for all importances, in seconds; the command line can be told to take longer. */
const MEASURE_SECONDS = 120;

/** Measures importance of every feature that a version reads, as far as two minutes go, and keeps it with the version. */
export const measureAllFeatures = action([idInput], async (model) =>
  success(await explainAll(await appContext(), model, MEASURE_SECONDS)),
);
