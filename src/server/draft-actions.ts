"use server";
import { z } from "zod";
import { problem, success } from "@/core/problem";
import { draftOf, keepDraft } from "@/store/drafts";
import { findPipeline, pipelineById } from "@/store/pipelines";
import { setTextsAside, textAsideById } from "@/store/texts-aside";
import { action, refuse } from "./answer/action";
import { fileInput, idInput, nameInput } from "./answer/inputs";
import { appContext } from "./context";

/** Keeps both texts of a draft that two people, or two tabs, have changed, whichever of them will be the draft. */
export const keepBothTexts = action(
  [z.object({ pipeline: nameInput, basedOn: z.int(), mine: fileInput, theirs: fileInput })],
  async ({ pipeline: name, basedOn, mine, theirs }) => {
    const { store } = await appContext();
    const pipeline = await findPipeline(store.db, name);
    if (!pipeline) return refuse(problem("unknown_pipeline", "Pipeline not found."));
    const common = { pipelineId: pipeline.id, basedOn };
    await setTextsAside(store.db, [
      { ...common, text: theirs, whose: "theirs" },
      { ...common, text: mine, whose: "mine" },
    ]);
    return success(undefined);
  },
  false,
);

/** Makes a text that was set aside the draft; the draft that there is goes aside in its place. */
export const fetchTextBack = action([idInput], async (id) => {
  const { store } = await appContext();
  const found = await textAsideById(store.db, id);
  const pipeline = found && (await pipelineById(store.db, found.pipelineId));
  if (!found || !pipeline)
    return refuse(problem("unknown_text", "This text is no longer stored.", "Choose one from the list."));
  const standing = await draftOf(store.db, pipeline.id);
  const { pipelineId, text, basedOn } = found;
  if (standing && standing.text !== text)
    await setTextsAside(store.db, [
      { pipelineId, text: standing.text, basedOn: standing.basedOn, whose: "draft" },
    ]);
  await keepDraft(store.db, { pipelineId, text, basedOn, revision: standing?.revision ?? 0 });
  return success(undefined);
});
