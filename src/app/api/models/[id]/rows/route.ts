import { z } from "zod";
import { judgedRows } from "@/runs/judging/judged-rows";
import { countText, fileInput, nameInput } from "@/server/answer/inputs";
import { judgedRoute } from "@/server/judged-request";

const query = z.object({
  choice: z.enum(["all", "wrong", "borderline"]).default("all"),
  column: nameInput.optional(),
  value: fileInput.default(""),
  offset: countText(1e9).default(0),
});
const ROWS = 50;

/** Rows of a version's scored holdout: all, surely wrong, or undecided; of one segment on request. */
export const GET = judgedRoute({ query }, (warehouse, judged, { query: { choice, column, value, offset } }) =>
  judgedRows(warehouse, judged, choice, column ? { column, value } : undefined, offset, ROWS),
);
