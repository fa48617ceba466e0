import { z } from "zod";
import { checkText } from "@/runs/check-file";
import { problemsOf } from "@/runs/failure";
import { appContext } from "@/server/context";
import { problemResponse } from "@/server/pipelines";

const bodySchema = z.object({ text: z.string() });

/** Problems of a pipeline text, for the editor. Saves nothing. */
export async function POST(request: Request): Promise<Response> {
  const body = bodySchema.safeParse(await request.json().catch(() => undefined));
  if (!body.success) return problemResponse([], 400);
  try {
    const checked = await checkText(body.data.text, (await appContext()).warehouse);
    return Response.json({
      ok: checked.ok,
      problems: checked.ok ? checked.value.warnings : checked.problems,
    });
  } catch (error) {
    return problemResponse(problemsOf(error), 500);
  }
}
