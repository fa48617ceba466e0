import type { CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import { problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import type { Warehouse } from "@/warehouse/warehouse";
import { appContext } from "./context";
import { problemResponse } from "./pipelines";
import { tableFromNames } from "./tables";

/** Answers a question about a table: ?schema and table, and columns by the names of parameters. */
export async function answerAboutTable(
  request: Request,
  wanted: readonly string[],
  answer: (warehouse: Warehouse, table: CatalogTable, columns: readonly CatalogColumn[]) => Promise<unknown>,
): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const { warehouse } = await appContext();
  const table = await tableFromNames(warehouse, query.get("schema"), query.get("table"));
  const columns = wanted.flatMap(
    (parameter) => table?.columns.find((each) => each.name === query.get(parameter)) ?? [],
  );
  if (!table || columns.length !== wanted.length)
    return problemResponse([problem("unknown_column", "There is no such table or column.")], 404);
  try {
    return Response.json(await answer(warehouse, table, columns));
  } catch (error) {
    return problemResponse(problemsOf(error), 500);
  }
}
