import { z } from "zod";
import { consequencesOf } from "@/runs/service";
import { idText } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";

/** What putting a version in service, or taking it out, will do. */
export const GET = route({ params: z.object({ id: idText }) }, async ({ params }) =>
  consequencesOf(await appContext(), params.id),
);
