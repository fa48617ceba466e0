import { z } from "zod";
import { textInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { findByName } from "@/server/find";

/** What has a name like ?text. */
export const GET = route(
  { query: z.object({ text: textInput(200).default("") }) },
  async ({ query: { text } }) => findByName(await appContext(), text),
);
