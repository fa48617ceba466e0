import { z } from "zod";
import { attachedAs, YAML } from "@/server/download";
import { idText } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { modelById } from "@/store/models";
import { pipelineById, versionById } from "@/store/pipelines";

/** The file that a version was trained from. */
export const GET = route({ params: z.object({ id: idText }) }, async ({ params: { id } }) => {
  const { db } = (await appContext()).store;
  const model = await modelById(db, id);
  const [pipeline, version] = model
    ? [await pipelineById(db, model.pipelineId), await versionById(db, model.pipelineVersionId)]
    : [];
  if (!pipeline || !version) throw unknown("unknown_model", "Model version not found.");
  return new Response(version.text, {
    headers: { "content-type": YAML, "content-disposition": attachedAs(`${pipeline.name}.yaml`) },
  });
});
