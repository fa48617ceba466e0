"use server";
import { choicesSchema, lookWishesSchema } from "@/core/files/look";
import { problem, success } from "@/core/problem";
import { defineTables } from "@/runs/import/folder";
import { sendImport } from "@/runs/queue";
import { askCancelImport, lookAgain, orderLoad } from "@/store/imports";
import { action, refuse, type Outcome } from "./answer/action";
import { fileInput, uuidInput } from "./answer/inputs";
import { appContext, appQueue } from "./context";

async function order(id: string, change: () => Promise<boolean>): Promise<Outcome> {
  if (!(await change()))
    return refuse(
      problem(
        "import_busy",
        "This import is being worked on, or is done.",
        "Wait, or choose the file again.",
      ),
    );
  await sendImport(await appQueue(), id);
  return success(undefined);
}

/** Looks at a file again, read otherwise. */
export const lookAtImportAgain = action(
  [uuidInput, lookWishesSchema],
  (id, wishes) => order(id, async () => lookAgain((await appContext()).store.db, id, wishes)),
  false,
);

/** Orders the load. */
export const startLoad = action(
  [uuidInput, choicesSchema],
  (id, choices) => order(id, async () => orderLoad((await appContext()).store.db, id, choices)),
  false,
);

export const cancelImport = action(
  [uuidInput],
  async (id) => {
    await askCancelImport((await appContext()).store.db, id);
    return success(undefined);
  },
  false,
);

/** Makes the tables of a file of CREATE TABLE statements. Gives their names. */
export const makeTables = action(
  [fileInput],
  async (sql) => {
    const { warehouse } = await appContext();
    const tables = await defineTables(warehouse, sql);
    return success(tables.map((each) => `${warehouse.config.importSchema}.${each.name}`));
  },
  false,
);
