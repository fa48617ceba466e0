import { format } from "sql-formatter";
import { stepPreview } from "@/runs/preview";
import { answerAboutStep } from "@/server/step-request";

export const GET = (request: Request, { params }: { params: Promise<{ name: string }> }): Promise<Response> =>
  answerAboutStep(request, params, async (...step) => {
    const preview = await stepPreview(...step);
    return { ...preview, sql: format(preview.sql, { language: "postgresql" }) };
  });
