import { nameInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownColumn, knownTable, tableInput } from "@/server/tables";
import { againstTarget } from "@/warehouse/relate-columns";

const query = tableInput.extend({ target: nameInput });

/** All columns of a table against one of them. */
export const GET = route({ query }, async ({ query: { target, ...names } }) => {
  const { warehouse } = await appContext();
  const table = await knownTable(warehouse, names);
  return againstTarget(warehouse, table, knownColumn(table, target));
});
