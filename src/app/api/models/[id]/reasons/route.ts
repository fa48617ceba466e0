import { z } from "zod";
import { rowReasons } from "@/runs/judging/judged-rows";
import { fileInput, nameInput } from "@/server/answer/inputs";
import { judgedRoute } from "@/server/judged-request";

/** Why one row of the holdout was predicted as it was. */
export const POST = judgedRoute({ body: z.record(nameInput, fileInput) }, (warehouse, judged, { body }) =>
  rowReasons(warehouse, judged, body),
);
