import { problemsOf } from "@/runs/failure";
import { consequencesOf } from "@/runs/service";
import { appContext } from "@/server/context";
import { problemResponse } from "@/server/pipelines";

/** What putting a version in service, or taking it out, will do. */
export async function GET(
  _request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  try {
    return Response.json(await consequencesOf(await appContext(), Number((await params).id) || 0));
  } catch (error) {
    return problemResponse(problemsOf(error), 422);
  }
}
