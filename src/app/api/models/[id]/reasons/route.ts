import { z } from "zod";
import { rowReasons } from "@/runs/judging/judged-rows";
import { answerJudged } from "@/server/judged-request";

const keySchema = z.record(z.string(), z.string());

/** Why one row of the holdout was predicted as it was. */
export async function POST(
  request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  const body: unknown = await request.json().catch(() => ({}));
  return answerJudged((await params).id, (warehouse, judged) =>
    rowReasons(warehouse, judged, keySchema.parse(body)),
  );
}
