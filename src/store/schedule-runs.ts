import { group } from "d3-array";
import { desc, gte, sql } from "drizzle-orm";
import type { Database } from "./database";
import type { RunRow } from "./runs";
import { runs, type RunKind } from "./schema";

/** A question for runs of a pipeline: of one kind, from a logical time on. */
export interface RunsWanted {
  readonly pipelineId: number;
  readonly kind: RunKind;
  readonly from: Date;
}

/** The runs that each of some questions asks for, newest first; in one statement. */
export async function runsFrom(
  db: Database,
  wanted: readonly RunsWanted[],
): Promise<readonly (readonly RunRow[])[]> {
  if (wanted.length === 0) return [];
  const asked = wanted.map(
    ({ pipelineId, kind, from }) => sql`(${pipelineId}::int, ${kind}, ${from.toISOString()}::timestamptz)`,
  );
  const found = await db
    .select()
    .from(runs)
    .where(
      sql`EXISTS (SELECT 1 FROM (VALUES ${sql.join(asked, sql`, `)}) w (pipeline, kind, since) WHERE w.pipeline = ${runs.pipelineId} AND w.kind = ${runs.kind} AND w.since <= ${runs.runTime})`,
    )
    .orderBy(desc(runs.createdAt));
  return wanted.map(({ pipelineId, kind, from }) =>
    found.filter((run) => run.pipelineId === pipelineId && run.kind === kind && run.runTime >= from),
  );
}

/** A schedule, as the slots of its runs name it. */
interface ScheduleOfRuns {
  readonly pipelineId: number;
  readonly name: string;
}

const slotPrefix = ({ pipelineId, name }: ScheduleOfRuns): string => `${pipelineId}/${name}/`;

/** The newest run that each of some schedules began; in one statement. */
export async function newestOfSchedules(
  db: Database,
  wanted: readonly ScheduleOfRuns[],
): Promise<readonly (RunRow | undefined)[]> {
  if (wanted.length === 0) return [];
  const asked = wanted.map((schedule) => sql`(${schedule.pipelineId}::int, ${slotPrefix(schedule)})`);
  const prefix = sql<string>`w.prefix`;
  const found = await db
    .selectDistinctOn([prefix], { prefix, run: runs })
    .from(runs)
    .innerJoin(
      sql`(VALUES ${sql.join(asked, sql`, `)}) w (pipeline, prefix)`,
      sql`w.pipeline = ${runs.pipelineId} AND starts_with(${runs.slot}, w.prefix)`,
    )
    .orderBy(prefix, desc(runs.createdAt));
  const byPrefix = new Map(found.map((one) => [one.prefix, one.run]));
  return wanted.map((schedule) => byPrefix.get(slotPrefix(schedule)));
}

/** A run of a schedule, as far as its thread shows it. */
export type ThreadRun = Pick<RunRow, "id" | "runTime" | "state" | "rows" | "createdAt" | "finishedAt">;

/** A schedule, and what it does. */
interface ScheduledWork extends ScheduleOfRuns {
  readonly run: RunKind;
  readonly delivery: string | null;
}

/**
 * The runs that each of some schedules began from a logical time on, and those that people or backfills
 * began for the same work, in the order in which they were begun; in one statement.
 */
export async function runsOfSchedules(
  db: Database,
  wanted: readonly ScheduledWork[],
  from: Date,
): Promise<readonly (readonly ThreadRun[])[]> {
  if (wanted.length === 0) return [];
  const asked = wanted.map(
    (schedule, index) =>
      sql`(${index}::int, ${schedule.pipelineId}::int, ${slotPrefix(schedule)}, ${schedule.run}, ${schedule.delivery}::text)`,
  );
  const isSameWork = sql`(${runs.cause} <> 'schedule' AND ${runs.kind} = w.kind AND ${runs.options} -> 'onDemand' IS NULL AND (w.delivery IS NULL OR coalesce(${runs.options} ->> 'delivery', w.delivery) = w.delivery))`;
  const found = await db
    .select({
      position: sql<number>`w.position`,
      id: runs.id,
      runTime: runs.runTime,
      state: runs.state,
      rows: runs.rows,
      createdAt: runs.createdAt,
      finishedAt: runs.finishedAt,
    })
    .from(runs)
    .innerJoin(
      sql`(VALUES ${sql.join(asked, sql`, `)}) w (position, pipeline, prefix, kind, delivery)`,
      sql`w.pipeline = ${runs.pipelineId} AND (starts_with(${runs.slot}, w.prefix) OR ${isSameWork})`,
    )
    .where(gte(runs.runTime, from))
    .orderBy(runs.createdAt);
  const byPosition = group(found, ({ position }) => position);
  return wanted.map((_, index) => byPosition.get(index) ?? []);
}
