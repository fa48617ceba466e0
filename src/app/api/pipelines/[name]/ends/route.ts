import { z } from "zod";
import { endsWith } from "@/runs/pipelines/remove";
import { nameInput } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { findPipeline } from "@/store/pipelines";

/** What would end with a pipeline. */
export const GET = route({ params: z.object({ name: nameInput }) }, async ({ params: { name } }) => {
  const context = await appContext();
  const pipeline = await findPipeline(context.store.db, name);
  if (!pipeline) throw unknown("unknown_pipeline", "Pipeline not found.");
  return endsWith(context, pipeline);
});
