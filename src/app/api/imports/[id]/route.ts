import { problem } from "@/core/problem";
import { importFromRequest, seen } from "@/server/import-request";
import { problemResponse } from "@/server/pipelines";

/** How far an import is, and what was found. */
export async function GET(
  _request: Request,
  { params }: { readonly params: Promise<{ id: string }> },
): Promise<Response> {
  const row = await importFromRequest((await params).id);
  if (!row) return problemResponse([problem("unknown_import", "There is no such import.")], 404);
  return Response.json(seen(row));
}
