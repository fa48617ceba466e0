import { residualsOf } from "@/runs/judging/segments";
import { answerJudged } from "@/server/judged-request";

/** Residuals of a version along one column. */
export async function GET(
  request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  const column = new URL(request.url).searchParams.get("column") ?? "";
  return answerJudged((await params).id, (warehouse, judged) => residualsOf(warehouse, judged, column));
}
