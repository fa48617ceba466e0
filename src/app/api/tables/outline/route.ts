import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownTable, tableInput } from "@/server/tables";
import { outlineTable } from "@/warehouse/outline";

/** A quick look at a table: gaps, different values, and what could be its key. */
export const GET = route({ query: tableInput }, async ({ query }) => {
  const { warehouse } = await appContext();
  return outlineTable(warehouse, await knownTable(warehouse, query));
});
