import { z } from "zod";
import { attachedAs, YAML } from "@/server/download";
import { countText, nameInput } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { findPipeline, listVersions } from "@/store/pipelines";

const params = z.object({ name: nameInput });
const query = z.object({ version: countText(1e9).optional() });

/** A pipeline's file as it was saved: the newest version, or ?version. */
export const GET = route({ params, query }, async ({ params: { name }, query: { version } }) => {
  const { db } = (await appContext()).store;
  const pipeline = await findPipeline(db, name);
  const versions = pipeline ? await listVersions(db, pipeline.id) : [];
  const found =
    version === undefined ? versions[0] : versions.find((oneVersion) => oneVersion.number === version);
  if (!found) throw unknown("unknown_pipeline", "File not found.");
  return new Response(found.text, {
    headers: { "content-type": YAML, "content-disposition": attachedAs(`${name}.yaml`) },
  });
});
