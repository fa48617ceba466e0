import { findTable } from "@/core/plan/catalog";
import type { TableReference } from "@/core/relation/relation";
import { dueProfiles, keepProfile, putTableFacts } from "@/store/table-facts";
import { profileTable } from "@/warehouse/table-profile";
import type { Context } from "../context";
import { problemsOf } from "../failure";

/** Profiles a table and keeps what was found, with the time. */
export async function refreshProfile(context: Context, reference: TableReference): Promise<void> {
  const table = findTable(await context.warehouse.catalog.read(), reference);
  if (!table) throw new Error(`There is no table ${reference.schema}.${reference.table}.`);
  await keepProfile(context.store.db, reference, await profileTable(context.warehouse, table));
}

/** Takes the profiles that were asked for or are due, one after the other. */
export async function takeDueProfiles(context: Context): Promise<void> {
  for (const dueProfile of await dueProfiles(context.store.db)) {
    // Said beforehand, so that a table that cannot be read is not tried again and again.
    await putTableFacts(context.store.db, dueProfile, { profileAskedAt: new Date() });
    try {
      await refreshProfile(context, dueProfile);
    } catch (error) {
      await putTableFacts(context.store.db, dueProfile, {
        profileProblem: problemsOf(error)
          .map((found) => found.message)
          .join(" "),
      });
    }
  }
}
