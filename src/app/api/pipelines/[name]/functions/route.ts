import { z } from "zod";
import { publishedFunctions } from "@/runs/published";
import { nameInput } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { findPipeline } from "@/store/pipelines";

/** The functions in the warehouse that a pipeline is asked by, with a call of each. */
export const GET = route({ params: z.object({ name: nameInput }) }, async ({ params: { name } }) => {
  const context = await appContext();
  const pipeline = await findPipeline(context.store.db, name);
  if (!pipeline) throw unknown("unknown_pipeline", "Pipeline not found.");
  return publishedFunctions(context, pipeline);
});
