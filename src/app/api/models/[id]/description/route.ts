import { z } from "zod";
import { descriptionOf } from "@/runs/judging/describe";
import { descriptionPage } from "@/runs/judging/description-page";
import { idText } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";

/** The description of a version: Markdown, or with format=html a page that stands by itself. */
export const GET = route(
  { params: z.object({ id: idText }), query: z.object({ format: z.enum(["md", "html"]).default("md") }) },
  async ({ params, query: { format } }) => {
    const { name, markdown } = await descriptionOf(await appContext(), params.id);
    const html = format === "html";
    return new Response(html ? await descriptionPage(name, markdown) : markdown, {
      headers: {
        "content-type": html ? "text/html; charset=utf-8" : "text/markdown; charset=utf-8",
        "content-disposition": `${html ? "inline" : "attachment"}; filename*=UTF-8''${encodeURIComponent(`${name}.${format}`)}`,
        "content-security-policy": "default-src 'none'; style-src 'unsafe-inline'",
      },
    });
  },
);
