import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownTable, tableInput } from "@/server/tables";

/** The columns of a table, by name and type. */
export const GET = route({ query: tableInput }, async ({ query }) => {
  const { warehouse } = await appContext();
  const { columns } = await knownTable(warehouse, query);
  return columns.map(({ name, declared }) => ({ name, declared }));
});
