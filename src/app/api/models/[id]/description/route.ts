import { problemsOf } from "@/runs/failure";
import { descriptionOf } from "@/runs/judging/describe";
import { descriptionPage } from "@/runs/judging/description-page";
import { appContext } from "@/server/context";
import { problemResponse } from "@/server/pipelines";

/** The description of a version: Markdown, or with format=html a page that stands by itself. */
export async function GET(
  request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  const html = new URL(request.url).searchParams.get("format") === "html";
  try {
    const { name, markdown } = await descriptionOf(await appContext(), Number((await params).id) || 0);
    const file = `${name}.${html ? "html" : "md"}`;
    return new Response(html ? await descriptionPage(name, markdown) : markdown, {
      headers: {
        "content-type": html ? "text/html; charset=utf-8" : "text/markdown; charset=utf-8",
        "content-disposition": `${html ? "inline" : "attachment"}; filename*=UTF-8''${encodeURIComponent(file)}`,
        "content-security-policy": "default-src 'none'; style-src 'unsafe-inline'",
      },
    });
  } catch (error) {
    return problemResponse(problemsOf(error), 404);
  }
}
