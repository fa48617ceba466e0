import { compareVersions } from "@/runs/judging/compare";
import { openJudged } from "@/runs/judging/judged-table";
import { answerJudged } from "@/server/judged-request";
import { appContext } from "@/server/context";

/** Two versions on the rows that both were judged on. */
export async function GET(request: Request): Promise<Response> {
  const query = new URL(request.url).searchParams;
  return answerJudged(query.get("a") ?? "", async (warehouse, one) =>
    compareVersions(warehouse, one, await openJudged(await appContext(), Number(query.get("b")) || 0)),
  );
}
