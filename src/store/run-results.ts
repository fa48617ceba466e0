import { and, eq } from "drizzle-orm";
import type { Database } from "./database";
import { runResults } from "./schema";

/** What an earlier attempt of a run came to in one part of it, if it was made from the same. */
export async function keptResult(
  db: Database,
  part: { readonly runId: string; readonly name: string; readonly madeFrom: string },
): Promise<unknown> {
  const [row] = await db
    .select({ value: runResults.value })
    .from(runResults)
    .where(
      and(
        eq(runResults.runId, part.runId),
        eq(runResults.name, part.name),
        eq(runResults.madeFrom, part.madeFrom),
      ),
    );
  return row?.value;
}

/** Keeps what a part of a run has come to, in the place of what was there. */
export async function keepResult(db: Database, part: typeof runResults.$inferInsert): Promise<void> {
  await db
    .insert(runResults)
    .values(part)
    .onConflictDoUpdate({
      target: [runResults.runId, runResults.name],
      set: { madeFrom: part.madeFrom, value: part.value },
    });
}

/** Forgets what the parts of a run came to: it has reached its end. */
export async function forgetResults(db: Database, runId: string): Promise<void> {
  await db.delete(runResults).where(eq(runResults.runId, runId));
}
