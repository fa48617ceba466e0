"use server";
import { z } from "zod";
import { choicesSchema, lookWishesSchema } from "@/core/files/look";
import { severalChoices } from "@/core/files/several";
import { problem, success } from "@/core/problem";
import { defineTables } from "@/runs/import/folder";
import { sendImport } from "@/runs/queue";
import { askCancelImport, importsById, lookAgain, orderLoad } from "@/store/imports";
import { action, refuse, type Outcome } from "./answer/action";
import { fileInput, nameInput, uuidInput } from "./answer/inputs";
import { appContext, appQueue } from "./context";

async function order(id: string, change: () => Promise<boolean>): Promise<Outcome> {
  if (!(await change()))
    return refuse(
      problem("import_busy", "This import is running or done.", "Wait, or upload the file again."),
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

/** Files that are loaded at once. */
const MOST_FILES = 500;

/**
 * Orders the loads of several files: each into a table of its own, or one after the other into one table. Nothing is ordered where the
 * table of one cannot be had.
 */
export const startLoads = action(
  [
    z.object({
      files: z
        .array(z.object({ id: uuidInput, table: nameInput }))
        .min(1)
        .max(MOST_FILES),
      together: z.boolean(),
      misfits: choicesSchema.shape.misfits,
    }),
  ],
  async ({ files, together, misfits }) => {
    const { store, warehouse } = await appContext();
    const rows = await importsById(
      store.db,
      files.map(({ id }) => id),
    );
    const found = files.flatMap(({ id, table }) => {
      const row = rows.find((known) => known.id === id);
      return row?.look ? [{ id, name: row.name, look: row.look, table }] : [];
    });
    if (found.length < files.length)
      return refuse(
        problem("import_busy", "A file has not been analysed yet.", "Wait until all files are analysed."),
      );
    const { importSchema } = warehouse.config;
    const tables = (await warehouse.catalog.tables()).filter(({ schema }) => schema === importSchema);
    const choices = severalChoices(
      found,
      together,
      tables.map(({ table }) => table),
      misfits,
    );
    if (!choices.ok) return choices;
    const queue = await appQueue();
    for (const [place, { id }] of found.entries()) {
      const before = together ? found[place - 1]?.id : undefined;
      if (await orderLoad(store.db, id, choices.value[place]!, before)) await sendImport(queue, id);
    }
    return success(undefined);
  },
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
    return success(tables.map((table) => `${warehouse.config.importSchema}.${table.name}`));
  },
  false,
);
