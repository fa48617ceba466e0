import { z } from "zod";
import { FEW_SEGMENTS, MOST_SEGMENTS } from "@/core/questions/judged/segments";
import { segmentsOf } from "@/runs/judging/segments";
import { nameInput } from "@/server/answer/inputs";
import { judgedRoute } from "@/server/judged-request";

const query = z.object({ column: nameInput, all: z.string().optional() });

/** Figures of a version by the values of one column. */
export const GET = judgedRoute({ query }, (warehouse, judged, { query: { column, all } }) =>
  segmentsOf(warehouse, judged, column, all === undefined ? FEW_SEGMENTS : MOST_SEGMENTS),
);
