import { z } from "zod";
import { uuidInput } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { importFromRequest, seen } from "@/server/import-request";

/** How far an import is, and what was found. */
export const GET = route({ params: z.object({ id: uuidInput }) }, async ({ params }) => {
  const row = await importFromRequest(params.id);
  if (!row) throw unknown("unknown_import", "Import not found.");
  return seen(row);
});
