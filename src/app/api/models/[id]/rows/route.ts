import { judgedRows, type RowChoice } from "@/runs/judging/judged-rows";
import { answerJudged } from "@/server/judged-request";
import { whole } from "@/server/tables";

const CHOICES: readonly RowChoice[] = ["all", "wrong", "borderline"];

/** Rows of a version's scored holdout: all, surely wrong, or undecided; of one segment on request. */
export async function GET(
  request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const choice = CHOICES.find((each) => each === query.get("choice")) ?? "all";
  const column = query.get("column");
  const segment = column === null || column === "" ? undefined : { column, value: query.get("value") ?? "" };
  return answerJudged((await params).id, (warehouse, judged) =>
    judgedRows(warehouse, judged, choice, segment, whole(query.get("offset"), 0, 1e9), 50),
  );
}
