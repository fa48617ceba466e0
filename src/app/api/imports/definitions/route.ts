import { z } from "zod";
import { readDefinitions } from "@/core/files/table-definition";
import { fileInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";

/** The tables that a text of CREATE TABLE statements defines, and what of it is not taken. Makes nothing. */
export const POST = route({ body: z.object({ text: fileInput }) }, async ({ body }) => {
  // The grammar is loaded with the context.
  await appContext();
  return readDefinitions(body.text);
});
