"use server";
import { z } from "zod";
import { choicesSchema, lookWishesSchema, type Choices, type LookWishes } from "@/core/files/look";
import { problem, type Problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { defineTables } from "@/runs/import/folder";
import { sendImport } from "@/runs/queue";
import { askCancelImport, lookAgain, orderLoad } from "@/store/imports";
import type { Outcome } from "./actions";
import { appContext, appQueue } from "./context";

const refuse = (...problems: readonly Problem[]): Outcome => ({ ok: false, problems });
const idSchema = z.uuid();

async function order(id: string, change: () => Promise<boolean>): Promise<Outcome> {
  try {
    if (!(await change()))
      return refuse(
        problem(
          "import_busy",
          "This import is being worked on, or is done.",
          "Wait, or choose the file again.",
        ),
      );
    await sendImport(await appQueue(), id);
    return { ok: true, value: undefined };
  } catch (error) {
    return refuse(...problemsOf(error));
  }
}

/** Looks at a file again, read otherwise. */
export async function lookAtImportAgain(id: string, wishes: LookWishes): Promise<Outcome> {
  return order(id, async () =>
    lookAgain((await appContext()).store.db, idSchema.parse(id), lookWishesSchema.parse(wishes)),
  );
}

/** Orders the load. */
export async function startLoad(id: string, choices: Choices): Promise<Outcome> {
  return order(id, async () =>
    orderLoad((await appContext()).store.db, idSchema.parse(id), choicesSchema.parse(choices)),
  );
}

export async function cancelImport(id: string): Promise<Outcome> {
  try {
    await askCancelImport((await appContext()).store.db, idSchema.parse(id));
    return { ok: true, value: undefined };
  } catch (error) {
    return refuse(...problemsOf(error));
  }
}

/** Makes the tables of a file of CREATE TABLE statements. Gives their names. */
export async function makeTables(sql: string): Promise<Outcome<readonly string[]>> {
  try {
    const { warehouse } = await appContext();
    const tables = await defineTables(warehouse, z.string().max(1_000_000).parse(sql));
    return { ok: true, value: tables.map((each) => `${warehouse.config.importSchema}.${each.name}`) };
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}
