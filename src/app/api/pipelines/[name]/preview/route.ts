import { stepPreview } from "@/runs/preview";
import { layOutSql } from "@/server/sql-layout";
import { answerAboutStep } from "@/server/step-request";

export const GET = (request: Request, { params }: { params: Promise<{ name: string }> }): Promise<Response> =>
  answerAboutStep(request, params, async (...step) => {
    const preview = await stepPreview(...step);
    return { ...preview, sql: layOutSql(preview.sql) };
  });
