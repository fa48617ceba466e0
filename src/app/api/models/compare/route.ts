import { z } from "zod";
import { compareVersions } from "@/runs/judging/compare";
import { openJudged } from "@/runs/judging/judged-table";
import { idText } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";

/** Two versions on the rows that both were judged on. */
export const GET = route({ query: z.object({ a: idText, b: idText }) }, async ({ query }) => {
  const context = await appContext();
  return compareVersions(
    context.warehouse,
    await openJudged(context, query.a),
    await openJudged(context, query.b),
  );
});
