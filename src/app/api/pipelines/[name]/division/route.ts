import { z } from "zod";
import { unwrap } from "@/core/problem";
import { nameInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { divisionInput, previewDivision } from "@/server/division";

/** How rows would be divided if the file said what is sent. */
export const POST = route(
  { params: z.object({ name: nameInput }), body: divisionInput },
  async ({ params, body }) => unwrap(await previewDivision(await appContext(), params.name, body)),
);
