import { z } from "zod";
import { rowFields, tryRow } from "@/runs/judging/try-row";
import { fileInput, idText, nameInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";

const params = z.object({ id: idText });

/** What has to be told of a row for this version to predict it. */
export const GET = route({ params }, async (asked) => ({
  fields: await rowFields(await appContext(), asked.params.id),
}));

/** The prediction of one row, with its reasons. */
export const POST = route({ params, body: z.record(nameInput, fileInput.nullable()) }, async (asked) =>
  tryRow(await appContext(), asked.params.id, asked.body),
);
