import { z } from "zod";
import { problemsOf } from "@/runs/failure";
import { rowFields, tryRow } from "@/runs/judging/try-row";
import { appContext } from "@/server/context";
import { problemResponse } from "@/server/pipelines";

const valuesSchema = z.record(z.string(), z.string().max(100_000).nullable());

/** What has to be told of a row for this version to predict it. */
export async function GET(
  _request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  try {
    return Response.json({ fields: await rowFields(await appContext(), Number((await params).id) || 0) });
  } catch (error) {
    return problemResponse(problemsOf(error), 422);
  }
}

/** The prediction of one row, with its reasons. */
export async function POST(
  request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  try {
    return Response.json(
      await tryRow(
        await appContext(),
        Number((await params).id) || 0,
        valuesSchema.parse(await request.json()),
      ),
    );
  } catch (error) {
    return problemResponse(problemsOf(error), 422);
  }
}
