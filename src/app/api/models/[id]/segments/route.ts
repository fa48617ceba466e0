import { FEW_SEGMENTS, MOST_SEGMENTS } from "@/core/evaluate/segments-sql";
import { segmentsOf } from "@/runs/judging/segments";
import { answerJudged } from "@/server/judged-request";

/** Figures of a version by the values of one column. */
export async function GET(
  request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  const asked = new URL(request.url).searchParams;
  const column = asked.get("column") ?? "";
  const most = asked.has("all") ? MOST_SEGMENTS : FEW_SEGMENTS;
  return answerJudged((await params).id, (warehouse, judged) => segmentsOf(warehouse, judged, column, most));
}
