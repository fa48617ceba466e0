import { answerAboutTable } from "@/server/table-request";
import { readCatalog } from "@/warehouse/catalog";
import { suggestJoins } from "@/warehouse/suggest-joins";

export const GET = (request: Request): Promise<Response> =>
  answerAboutTable(request, [], async (warehouse, table) =>
    suggestJoins(
      warehouse,
      await readCatalog(warehouse),
      table,
      new URL(request.url).searchParams.has("all"),
    ),
  );
