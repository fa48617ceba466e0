import { z } from "zod";
import { checkText } from "@/runs/check-file";
import { fileInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";

/** Problems of a pipeline text, for the editor. Saves nothing. */
export const POST = route({ body: z.object({ text: fileInput }) }, async ({ body }) => {
  const checked = await checkText(body.text, (await appContext()).warehouse);
  return { ok: checked.ok, problems: checked.ok ? checked.value.warnings : checked.problems };
});
