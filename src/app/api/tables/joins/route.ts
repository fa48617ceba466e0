import { z } from "zod";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownTable, offeredTables, tableInput } from "@/server/tables";
import { suggestJoins } from "@/warehouse/suggest-joins";

const query = tableInput.extend({ all: z.string().optional() });

/** Joins that suggest themselves for a table. */
export const GET = route({ query }, async ({ query: { all, ...names } }) => {
  const { warehouse } = await appContext();
  const table = await knownTable(warehouse, names);
  return suggestJoins(warehouse, await offeredTables(warehouse), table, all !== undefined);
});
