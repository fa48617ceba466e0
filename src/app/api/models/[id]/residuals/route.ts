import { z } from "zod";
import { residualsOf } from "@/runs/judging/segments";
import { nameInput } from "@/server/answer/inputs";
import { judgedRoute } from "@/server/judged-request";

/** Residuals of a version along one column. */
export const GET = judgedRoute({ query: z.object({ column: nameInput }) }, (warehouse, judged, { query }) =>
  residualsOf(warehouse, judged, query.column),
);
