import { createReadStream, existsSync } from "node:fs";
import { z } from "zod";
import { rejectsPath } from "@/runs/import/job";
import { uuidInput } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { download } from "@/server/download";
import { importFromRequest } from "@/server/import-request";

/** The rows of an import that did not fit, as CSV. */
export const GET = route({ params: z.object({ id: uuidInput }) }, async ({ params }) => {
  const row = await importFromRequest(params.id);
  const file = row && rejectsPath(row.id);
  if (!file || !existsSync(file)) throw unknown("no_rejects", "No rows were rejected.");
  return download(createReadStream(file), `${row.name}.rejects.csv`, "text/csv; charset=utf-8");
});
