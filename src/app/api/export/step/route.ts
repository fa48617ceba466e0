import { z } from "zod";
import { problem, ProblemError } from "@/core/problem";
import { stepSource } from "@/runs/export/sources";
import { previewTime } from "@/runs/draft/preview";
import { blockersOf, openDraft } from "@/runs/draft/survey";
import { problemsOf } from "@/runs/failure";
import { appContext } from "@/server/context";
import { downloadRows, DOWNLOADS } from "@/server/download";
import { problemResponse } from "@/server/pipelines";

const bodySchema = z.object({
  text: z.string().max(2_000_000),
  strand: z.string(),
  after: z.coerce.number().int().min(0),
  format: z.enum(DOWNLOADS),
});

/** The rows after a step of a draft as a file. The body is a form, so that the browser itself keeps the file as it comes. */
export async function POST(request: Request): Promise<Response> {
  const body = bodySchema.safeParse(Object.fromEntries(await request.formData()));
  if (!body.success) return problemResponse([problem("bad_request", "The question could not be read.")], 400);
  const { text, strand, after, format } = body.data;
  const { warehouse, now } = await appContext();
  try {
    const { plan, survey } = await openDraft(text, warehouse);
    const found = plan?.strands.find((each) => each.name === strand);
    if (!plan || !found || after > found.steps.length)
      return problemResponse([problem("unknown_step", "There is no such step in this text.")], 404);
    const blockers = blockersOf(plan, survey.problems, strand, after);
    if (blockers.length > 0) return problemResponse(blockers);
    return await downloadRows(
      warehouse,
      await stepSource(plan, warehouse, strand, after, previewTime(await now())),
      format,
      `${plan.file.name}-${strand}-${after}`,
    );
  } catch (error) {
    return problemResponse(problemsOf(error), error instanceof ProblemError ? 503 : 500);
  }
}
