import { segmentsOf } from "@/runs/judging/segments";
import { answerJudged } from "@/server/judged-request";

/** Figures of a version by the values of one column. */
export async function GET(
  request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  const column = new URL(request.url).searchParams.get("column") ?? "";
  return answerJudged((await params).id, (warehouse, judged) => segmentsOf(warehouse, judged, column));
}
