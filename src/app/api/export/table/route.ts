import { z } from "zod";
import { writeTableName } from "@/core/pipeline/table-name";
import { tableSource } from "@/runs/export/sources";
import { nameInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { downloadRows, DOWNLOADS } from "@/server/download";
import { knownTable } from "@/server/tables";

const query = z.object({ schema: nameInput, table: nameInput, format: z.enum(DOWNLOADS) });

/** A table as a file: ?schema, table and format. */
export const GET = route({ query }, async ({ query: { format, ...names } }) => {
  const { warehouse } = await appContext();
  const table = await knownTable(warehouse, names);
  return downloadRows(warehouse, await tableSource(warehouse, writeTableName(table)), format, table.table);
});
