import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownTable, pageInput, tableInput } from "@/server/tables";
import { pageOfTable } from "@/warehouse/sample";

/** A page of a table's rows. */
export const GET = route({ query: tableInput.extend(pageInput.shape) }, async ({ query }) => {
  const { warehouse } = await appContext();
  return pageOfTable(warehouse, await knownTable(warehouse, query), {
    offset: query.offset,
    limit: query.limit,
    orderBy: query.order ? { column: query.order, descending: query.descending === "true" } : undefined,
  });
});
