import { nameInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownColumn, knownTable, tableInput } from "@/server/tables";
import { pairOf } from "@/warehouse/relate-columns";

const query = tableInput.extend({ x: nameInput, y: nameInput });

/** Two columns of a table against each other. */
export const GET = route({ query }, async ({ query: { x, y, ...names } }) => {
  const { warehouse } = await appContext();
  const table = await knownTable(warehouse, names);
  return pairOf(warehouse, table, knownColumn(table, x), knownColumn(table, y));
});
