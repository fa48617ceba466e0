"use server";
import { z } from "zod";
import { findTable } from "@/core/plan/catalog";
import { problem, success } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import type { Database } from "@/store/database";
import { describeColumn, putTableFacts } from "@/store/table-facts";
import { action, refuse, type Outcome } from "./answer/action";
import { nameInput, remarkInput } from "./answer/inputs";
import { appContext } from "./context";

const tableInput = z.object({ schema: nameInput, table: nameInput });

/** Changes what we keep of a table that exists. */
async function change(
  reference: TableReference,
  work: (db: Database, reference: TableReference) => Promise<void>,
): Promise<Outcome> {
  const { store, warehouse } = await appContext();
  const known = findTable(await warehouse.catalog.read(), reference);
  if (!known) return refuse(problem("unknown_table", "Table not found."));
  await work(store.db, { schema: known.schema, table: known.table });
  return success(undefined);
}

/** Describes a table, or one of its columns. An empty text takes the description away. */
export const describe = action(
  [tableInput, nameInput.optional(), remarkInput(2000)],
  (reference, column, text) =>
    change(reference, (db, known) =>
      column === undefined
        ? putTableFacts(db, known, { description: text || null })
        : describeColumn(db, known, column, text),
    ),
);

/** Asks for a fresh profile; a worker takes it. */
export const askProfile = action([tableInput], (reference) =>
  change(reference, (db, known) =>
    putTableFacts(db, known, { profileAskedAt: new Date(), profileProblem: null }),
  ),
);

/** How often the profile is taken anew by itself, in hours; null: only on request. */
export const scheduleProfile = action(
  [tableInput, z.int().min(1).max(8784).nullable()],
  (reference, refreshHours) => change(reference, (db, known) => putTableFacts(db, known, { refreshHours })),
);
