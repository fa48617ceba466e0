import { z } from "zod";
import { nameInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownColumn, knownTable, tableInput } from "@/server/tables";
import { stateOfKey } from "@/warehouse/outline";

const body = tableInput.extend({ columns: z.array(nameInput).min(1).max(100) });

/** Whether columns name every row of a table once. */
export const POST = route({ body }, async ({ body: { columns, ...names } }) => {
  const { warehouse } = await appContext();
  const table = await knownTable(warehouse, names);
  return stateOfKey(
    warehouse,
    table,
    columns.map((name) => knownColumn(table, name).name),
  );
});
