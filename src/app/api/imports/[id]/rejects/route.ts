import { createReadStream, existsSync } from "node:fs";
import { problem } from "@/core/problem";
import { rejectsPath } from "@/runs/import/job";
import { download } from "@/server/download";
import { importFromRequest } from "@/server/import-request";
import { problemResponse } from "@/server/pipelines";

/** The rows of an import that did not fit, as CSV. */
export async function GET(
  _request: Request,
  { params }: { readonly params: Promise<{ id: string }> },
): Promise<Response> {
  const row = await importFromRequest((await params).id);
  const file = row && rejectsPath(row.id);
  if (!file || !existsSync(file))
    return problemResponse([problem("no_rejects", "There are no rejected rows.")], 404);
  return download(createReadStream(file), `${row.name}.rejects.csv`, "text/csv; charset=utf-8");
}
