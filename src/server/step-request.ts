import type { CheckedPlan } from "@/core/plan/plan";
import { problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { previewTime } from "@/runs/preview";
import type { Warehouse } from "@/warehouse/warehouse";
import { appContext } from "./context";
import { openPipeline, problemResponse } from "./pipelines";
import { whole } from "./tables";

/** Answers a question about the rows after some steps of a strand: ?version, strand and after in the query. */
export async function answerAboutStep(
  request: Request, params: Promise<{ name: string }>,
  answer: (plan: CheckedPlan, warehouse: Warehouse, strand: string, after: number, runTime: string) => Promise<unknown>,
): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const opened = await openPipeline(decodeURIComponent((await params).name), Number(query.get("version")) || undefined);
  if (!opened) return problemResponse([problem("unknown_pipeline", "There is no such pipeline or version.")], 404);
  if (!opened.checked.ok) return problemResponse(opened.checked.problems);
  const plan = opened.checked.value;
  const strand = plan.strands.find((each) => each.name === query.get("strand"));
  if (!strand) return problemResponse([problem("unknown_strand", "There is no such strand.")], 404);
  const { warehouse, now } = await appContext();
  try {
    return Response.json(await answer(plan, warehouse, strand.name, whole(query.get("after"), 0, strand.steps.length), previewTime(await now())));
  } catch (error) {
    return problemResponse(problemsOf(error), 500);
  }
}
