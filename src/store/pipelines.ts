import { and, desc, eq, inArray, isNull, notInArray, sql, type SQL } from "drizzle-orm";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Database } from "./database";
import { noteBehind } from "./publications";
import { pipelines, pipelineVersions, schedules, type ArrivalWatch } from "./schema";

export type PipelineRow = typeof pipelines.$inferSelect;
export type PipelineVersionRow = typeof pipelineVersions.$inferSelect;
export type ScheduleRow = typeof schedules.$inferSelect;

/** All pipelines but deleted ones, by name. */
export async function listPipelines(db: Database): Promise<readonly PipelineRow[]> {
  return db.select().from(pipelines).where(isNull(pipelines.deletedAt)).orderBy(pipelines.name);
}

/** The pipeline of a name, unless it is deleted. */
export async function findPipeline(db: Database, name: string): Promise<PipelineRow | undefined> {
  const living = and(eq(pipelines.name, name), isNull(pipelines.deletedAt));
  return (await db.select().from(pipelines).where(living))[0];
}

/** A pipeline by its number, also one that is deleted. */
export async function pipelineById(db: Database, id: number): Promise<PipelineRow | undefined> {
  return (await db.select().from(pipelines).where(eq(pipelines.id, id)))[0];
}

/** Versions of a pipeline, newest first. */
export async function listVersions(db: Database, pipelineId: number): Promise<readonly PipelineVersionRow[]> {
  return db
    .select()
    .from(pipelineVersions)
    .where(eq(pipelineVersions.pipelineId, pipelineId))
    .orderBy(desc(pipelineVersions.number));
}

export async function newestVersion(
  db: Database,
  pipelineId: number,
): Promise<PipelineVersionRow | undefined> {
  return (
    await db
      .select()
      .from(pipelineVersions)
      .where(eq(pipelineVersions.pipelineId, pipelineId))
      .orderBy(desc(pipelineVersions.number))
      .limit(1)
  )[0];
}

export async function versionById(db: Database, id: number): Promise<PipelineVersionRow | undefined> {
  return (await db.select().from(pipelineVersions).where(eq(pipelineVersions.id, id)))[0];
}

export interface SavedVersion {
  readonly pipeline: PipelineRow;
  readonly version: PipelineVersionRow;
  /** False when the text was already the newest version: nothing was written. */
  readonly fresh: boolean;
}

/** What a save finds when somebody else saved in the meantime. */
export interface SaveConflict {
  readonly conflict: number;
}

/**
 * Saves a checked file as a new version, and brings the schedules in line with it, in one transaction.
 * @param basedOn number of the version the edit started from; a newer one is reported, never overwritten
 * @param now the moment from which new schedules count
 */
export async function saveVersion(
  db: Database,
  file: PipelineFile,
  text: string,
  planHash: string,
  now: Date,
  note?: string,
  basedOn?: number,
): Promise<SavedVersion | SaveConflict> {
  return db.transaction(async (tx) => {
    await tx
      .insert(pipelines)
      .values({ name: file.name, description: file.description ?? null })
      .onConflictDoNothing();
    // The row lock makes two saves take turns, so numbers never clash.
    const living = and(eq(pipelines.name, file.name), isNull(pipelines.deletedAt));
    const [pipeline] = await tx.select().from(pipelines).where(living).for("update");
    if (!pipeline) throw new Error("pipeline row vanished");
    const [newest] = await tx
      .select()
      .from(pipelineVersions)
      .where(eq(pipelineVersions.pipelineId, pipeline.id))
      .orderBy(desc(pipelineVersions.number))
      .limit(1);
    if (newest && basedOn !== undefined && basedOn !== newest.number) return { conflict: newest.number };
    if (newest?.text === text) return { pipeline, version: newest, fresh: false };
    const [version] = await tx
      .insert(pipelineVersions)
      .values({
        pipelineId: pipeline.id,
        number: (newest?.number ?? 0) + 1,
        text,
        planHash,
        note: note ?? null,
      })
      .returning();
    await tx
      .update(pipelines)
      .set({ description: file.description ?? null })
      .where(eq(pipelines.id, pipeline.id));
    await syncSchedules(tx, pipeline.id, file, now);
    // The functions of a version in service follow the file.
    if (pipeline.inService !== null) await noteBehind(tx, pipeline.id);
    return { pipeline, version: version!, fresh: true };
  });
}

/** A changed schedule starts afresh from now; an unchanged one keeps its place, so that a save neither repeats nor skips a slot. */
async function syncSchedules(
  tx: Pick<Database, "insert" | "delete" | "select" | "update">,
  pipelineId: number,
  file: PipelineFile,
  now: Date,
): Promise<void> {
  const names = file.schedules.map((schedule) => schedule.name);
  const stale =
    names.length > 0
      ? and(eq(schedules.pipelineId, pipelineId), notInArray(schedules.name, names))
      : eq(schedules.pipelineId, pipelineId);
  await tx.delete(schedules).where(stale);
  for (const schedule of file.schedules) {
    const values = {
      run: schedule.run,
      delivery: schedule.delivery ?? null,
      cron: schedule.cron ?? null,
      after: schedule.after ?? null,
      arrival: schedule.arrival ?? null,
      afterBackfill: schedule.after_backfill,
      quietFor: schedule.quiet_for,
      zone: schedule.zone,
      missed: schedule.missed,
      lateAfter: schedule.late_after,
      atOnce: schedule.at_once,
      wait: schedule.wait ?? null,
    };
    const same = (column: SQL, value: string | undefined): SQL =>
      sql`${column} IS NOT DISTINCT FROM ${value ?? null}::text`;
    const unchanged = sql.join(
      [
        same(sql`${schedules.cron}`, schedule.cron),
        same(sql`${schedules.zone}`, schedule.zone),
        same(sql`${schedules.after}`, schedule.after),
        same(sql`${schedules.arrival}`, schedule.arrival),
      ],
      sql` AND `,
    );
    await tx
      .insert(schedules)
      .values({ pipelineId, name: schedule.name, ...values, doneUntil: now })
      .onConflictDoUpdate({
        target: [schedules.pipelineId, schedules.name],
        set: {
          ...values,
          doneUntil: sql`CASE WHEN ${unchanged} THEN ${schedules.doneUntil} ELSE ${now.toISOString()}::timestamptz END`,
          seen: sql`CASE WHEN ${unchanged} THEN ${schedules.seen} END`,
          arriving: sql`CASE WHEN ${unchanged} THEN ${schedules.arriving} END`,
        },
      });
  }
}

export async function listSchedules(
  db: Database,
  pipelineIds?: readonly number[],
): Promise<readonly ScheduleRow[]> {
  const query = db.select().from(schedules);
  return pipelineIds
    ? query.where(inArray(schedules.pipelineId, [...pipelineIds]))
    : query.orderBy(schedules.id);
}

export async function setSchedulePaused(db: Database, id: number, paused: boolean, now: Date): Promise<void> {
  // What passed while it was paused is not caught up: times, deliveries of others, and rows that arrived.
  await db
    .update(schedules)
    .set(paused ? { paused } : { paused, doneUntil: now, seen: null, arriving: null })
    .where(eq(schedules.id, id));
}

/** Notes up to where a schedule has looked that waits for something. */
export async function noteSeen(db: Database, id: number, seen: string): Promise<void> {
  await db.update(schedules).set({ seen }).where(eq(schedules.id, id));
}

/** Notes what the table of arrivals is like now. What it holds at the first look has not arrived since. */
export async function noteArriving(
  db: Database,
  { id, arriving: before }: Pick<ScheduleRow, "id" | "arriving">,
  arriving: ArrivalWatch,
): Promise<void> {
  await db
    .update(schedules)
    .set({ arriving, ...(before === null ? { seen: arriving.content } : {}) })
    .where(eq(schedules.id, id));
}

/** Records that all times up to `until` are dealt with. Never moves backwards. */
export async function settleSchedule(db: Database, id: number, until: Date): Promise<void> {
  await db
    .update(schedules)
    .set({ doneUntil: sql`greatest(${schedules.doneUntil}, ${until.toISOString()}::timestamptz)` })
    .where(eq(schedules.id, id));
}

/** Counts times of a schedule that were left out because enough of its runs were under way. */
export async function leaveOut(db: Database, id: number, times: number): Promise<void> {
  await db
    .update(schedules)
    .set({ leftOut: sql`${schedules.leftOut} + ${times}` })
    .where(eq(schedules.id, id));
}
