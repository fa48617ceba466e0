"use server";
import { problem, success } from "@/core/problem";
import { copyPipeline } from "@/runs/pipelines/copy";
import { removePipeline } from "@/runs/pipelines/remove";
import { renamePipeline } from "@/runs/pipelines/rename";
import { findPipeline } from "@/store/pipelines";
import { action, refuse } from "./answer/action";
import { nameInput, remarkInput } from "./answer/inputs";
import { appContext } from "./context";

const noPipeline = () => refuse(problem("unknown_pipeline", "Pipeline not found.", "Reload the page."));

/** Makes a new pipeline of another one's file; gives its name. */
export const copyTo = action([nameInput, nameInput], async (name, wanted) => {
  const context = await appContext();
  const pipeline = await findPipeline(context.store.db, name);
  if (!pipeline) return noPipeline();
  const copied = await copyPipeline(context, pipeline, wanted);
  return copied.ok ? success(copied.value.pipeline.name) : copied;
});

/** Gives a pipeline another name. */
export const renameTo = action([nameInput, nameInput], async (name, wanted) => {
  const context = await appContext();
  const pipeline = await findPipeline(context.store.db, name);
  if (!pipeline) return noPipeline();
  const renamed = await renamePipeline(context, pipeline, wanted);
  return renamed.ok ? success(wanted) : renamed;
});

/** Deletes a pipeline, with who does it. */
export const removeForGood = action([nameInput, remarkInput(80)], async (name, by) => {
  const context = await appContext();
  const pipeline = await findPipeline(context.store.db, name);
  if (!pipeline) return noPipeline();
  await removePipeline(context, pipeline, by);
  return success(undefined);
});
