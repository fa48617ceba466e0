import { stepCounts } from "@/runs/preview";
import { answerAboutStep } from "@/server/step-request";

export const GET = (request: Request, { params }: { params: Promise<{ name: string }> }): Promise<Response> => answerAboutStep(request, params, stepCounts);
