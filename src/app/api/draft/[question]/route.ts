import { ZodError } from "zod";
import { problem, ProblemError } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { askDraft } from "@/server/draft-questions";
import { problemResponse } from "@/server/pipelines";
import { askingFor } from "@/warehouse/asking";

/** Questions about a draft: the text as it stands in the browser comes along. Saves nothing. */
export async function POST(
  request: Request,
  { params }: { readonly params: Promise<{ question: string }> },
): Promise<Response> {
  try {
    const answered = await askingFor(request.signal, async () =>
      askDraft((await params).question, await request.json()),
    );
    return answered
      ? Response.json(answered.answer)
      : problemResponse([problem("unknown_question", "There is no such question.")], 404);
  } catch (error) {
    if (error instanceof ZodError || error instanceof SyntaxError)
      return problemResponse([problem("bad_request", "The question could not be read.")], 400);
    return problemResponse(problemsOf(error), error instanceof ProblemError ? 422 : 500);
  }
}
