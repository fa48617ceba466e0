import { openJudged, type JudgedVersion } from "@/runs/judging/judged-table";
import { problemsOf } from "@/runs/failure";
import type { Warehouse } from "@/warehouse/warehouse";
import { appContext } from "./context";
import { problemResponse } from "./pipelines";

/** Answers a question about a version's judged rows; what goes wrong comes back in words. */
export async function answerJudged(
  id: string,
  ask: (warehouse: Warehouse, judged: JudgedVersion) => Promise<unknown>,
): Promise<Response> {
  try {
    const context = await appContext();
    return Response.json(await ask(context.warehouse, await openJudged(context, Number(id) || 0)));
  } catch (error) {
    return problemResponse(problemsOf(error), 422);
  }
}
