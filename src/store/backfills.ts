import { and, asc, count, desc, eq, inArray, isNull, sql } from "drizzle-orm";
import type { Database } from "./database";
import { whileOrdering } from "./orders";
import { backfills, runs, type BackfillState, type RunState } from "./schema";

export type BackfillRow = typeof backfills.$inferSelect;

type NewBackfill = Omit<typeof backfills.$inferInsert, "id" | "state" | "createdAt">;

/** Adds a backfill, unless one that is not at its end has the same times and does the same: then gives that one. */
export async function backfillOnce(db: Database, values: NewBackfill): Promise<BackfillRow> {
  const { pipelineId, delivery, modelId, cron, zone, total } = values;
  const order = JSON.stringify([pipelineId, delivery, modelId, cron, zone, total]);
  return whileOrdering(db, `backfill ${order}`, async (transaction) => {
    const [same] = await transaction
      .select()
      .from(backfills)
      .where(
        and(
          eq(backfills.pipelineId, pipelineId),
          eq(backfills.delivery, delivery),
          eq(backfills.cron, cron),
          eq(backfills.zone, zone),
          eq(backfills.total, total),
          eq(backfills.from, values.from),
          inArray(backfills.state, ["running", "paused"]),
          modelId === null || modelId === undefined
            ? isNull(backfills.modelId)
            : eq(backfills.modelId, modelId),
        ),
      )
      .limit(1);
    if (same) return same;
    const [row] = await transaction.insert(backfills).values(values).returning();
    return row!;
  });
}

export async function backfillById(db: Database, id: number): Promise<BackfillRow | undefined> {
  return (await db.select().from(backfills).where(eq(backfills.id, id)))[0];
}

/** Backfills that are listed: a page asks how far each of them is. */
export const MOST_LISTED = 50;

/** The newest backfills of a pipeline, newest first. */
export async function listBackfills(db: Database, pipelineId: number): Promise<readonly BackfillRow[]> {
  return db
    .select()
    .from(backfills)
    .where(eq(backfills.pipelineId, pipelineId))
    .orderBy(desc(backfills.id))
    .limit(MOST_LISTED);
}

/** Backfills that have runs to begin or to wait for. */
export async function openBackfills(db: Database): Promise<readonly BackfillRow[]> {
  return db.select().from(backfills).where(eq(backfills.state, "running")).orderBy(asc(backfills.id));
}

/** Sets a state, if the backfill is in one of those from which that makes sense. */
export async function setBackfillState(db: Database, id: number, state: BackfillState): Promise<void> {
  await db
    .update(backfills)
    .set({ state })
    .where(and(eq(backfills.id, id), sql`${backfills.state} NOT IN ('done', 'stopped')`));
}

/** Notes up to which time runs have been begun. Never moves backwards. */
export async function noteBackfilled(db: Database, id: number, until: Date): Promise<void> {
  await db
    .update(backfills)
    .set({ doneUntil: sql`greatest(${backfills.doneUntil}, ${until.toISOString()}::timestamptz)` })
    .where(eq(backfills.id, id));
}

/** How many runs of a backfill are in each state. */
export async function backfillRuns(db: Database, id: number): Promise<Readonly<Record<RunState, number>>> {
  const rows = await db
    .select({ state: runs.state, runs: count() })
    .from(runs)
    .where(eq(runs.backfillId, id))
    .groupBy(runs.state);
  return {
    queued: 0,
    running: 0,
    done: 0,
    failed: 0,
    cancelled: 0,
    ...Object.fromEntries(rows.map((row) => [row.state, row.runs])),
  };
}

/** Ids of runs of a backfill that are not at their end. */
export async function unfinishedOfBackfill(db: Database, id: number): Promise<readonly string[]> {
  return (
    await db
      .select({ id: runs.id })
      .from(runs)
      .where(and(eq(runs.backfillId, id), inArray(runs.state, ["queued", "running"])))
  ).map((run) => run.id);
}
