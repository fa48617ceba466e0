import { problem, ProblemError } from "@/core/problem";
import { writeTableName } from "@/core/pipeline/table-name";
import { tableSource } from "@/runs/export/sources";
import { problemsOf } from "@/runs/failure";
import { appContext } from "@/server/context";
import { downloadRows, DOWNLOADS, type DownloadFormat } from "@/server/download";
import { problemResponse } from "@/server/pipelines";
import { tableFromNames } from "@/server/tables";

/** A table as a file: ?schema, table and format. */
export async function GET(request: Request): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const format = query.get("format") as DownloadFormat;
  const { warehouse } = await appContext();
  const table = await tableFromNames(warehouse, query.get("schema"), query.get("table"));
  if (!table || !DOWNLOADS.includes(format))
    return problemResponse([problem("unknown_table", "There is no such table, or no such format.")], 404);
  try {
    return await downloadRows(
      warehouse,
      await tableSource(warehouse, writeTableName(table)),
      format,
      table.table,
    );
  } catch (error) {
    return problemResponse(problemsOf(error), error instanceof ProblemError ? 503 : 500);
  }
}
