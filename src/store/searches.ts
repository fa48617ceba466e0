import { asc, eq } from "drizzle-orm";
import type { Database } from "./database";
import { searchTrials } from "./schema";

export type SearchTrialRow = typeof searchTrials.$inferSelect;

/** Settings that a run's search has tried, in order. */
export async function trialsOf(db: Database, runId: string): Promise<readonly SearchTrialRow[]> {
  return db
    .select()
    .from(searchTrials)
    .where(eq(searchTrials.runId, runId))
    .orderBy(asc(searchTrials.number));
}

/** Keeps what came out of one trial. A trial that another attempt has kept already stays as it is. */
export async function addTrial(
  db: Database,
  trial: Omit<typeof searchTrials.$inferInsert, "id">,
): Promise<void> {
  await db.insert(searchTrials).values(trial).onConflictDoNothing();
}
