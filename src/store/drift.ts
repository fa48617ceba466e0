import { desc, eq } from "drizzle-orm";
import type { Database } from "./database";
import { runDrift } from "./schema";

export type DriftRow = typeof runDrift.$inferSelect;

/** Keeps what a run found; a retry finds the same and changes nothing. */
export async function addDrift(db: Database, drift: typeof runDrift.$inferInsert): Promise<void> {
  await db.insert(runDrift).values(drift).onConflictDoNothing();
}

/** The newest of a pipeline's measurements, oldest first. */
export async function driftOfPipeline(
  db: Database,
  pipelineId: number,
  most: number,
): Promise<readonly DriftRow[]> {
  return (
    await db
      .select()
      .from(runDrift)
      .where(eq(runDrift.pipelineId, pipelineId))
      .orderBy(desc(runDrift.runTime), desc(runDrift.runId))
      .limit(most)
  ).reverse();
}
