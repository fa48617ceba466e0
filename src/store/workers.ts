import { and, asc, desc, eq, isNull, or, sql } from "drizzle-orm";
import type { Workload } from "@/core/plan/workload";
import type { Database } from "./database";
import { pipelines, runs, workers } from "./schema";
import { LEASE_SECONDS, type RunRow } from "./runs";

export interface WorkerNote {
  readonly name: string;
  readonly takesLarge: boolean;
  /** What it tried to do regularly and could not. */
  readonly trouble: string | null;
}

/** Notes that a worker is alive. */
export async function noteWorker(db: Database, { name, takesLarge, trouble }: WorkerNote): Promise<void> {
  await db
    .insert(workers)
    .values({ name, startedAt: sql`now()`, seenAt: sql`now()`, takesLarge, trouble })
    .onConflictDoUpdate({ target: workers.name, set: { seenAt: sql`now()`, takesLarge, trouble } });
}

const alive = sql`${workers.seenAt} > now() - make_interval(secs => ${LEASE_SECONDS})`;

/** Whether any worker was seen within the lease. */
export async function workerAlive(db: Database): Promise<boolean> {
  const rows = await db.select({ name: workers.name }).from(workers).where(alive).limit(1);
  return rows.length > 0;
}

export async function recordWorkload(db: Database, id: string, workload: Workload): Promise<void> {
  await db.update(runs).set({ workload }).where(eq(runs.id, id));
}

const held = sql`(${runs.state} = 'running' AND ${runs.heartbeatAt} > now() - make_interval(secs => ${LEASE_SECONDS}))`;
/** The advisory lock under which memory is shared out; the number means nothing. */
const MEMORY_LOCK = 7_203_116;

/** Takes memory for a run, if the runs that are under way leave as much. Tells whether they do. */
export async function reserveMemory(
  db: Database,
  id: string,
  { bytes, limit }: { readonly bytes: number; readonly limit: number },
): Promise<boolean> {
  return db.transaction(async (transaction) => {
    await transaction.execute(sql`SELECT pg_advisory_xact_lock(${MEMORY_LOCK})`);
    const [taken] = await transaction
      .select({ bytes: sql<number>`coalesce(sum(${runs.reservedBytes}), 0)::double precision` })
      .from(runs)
      .where(and(held, sql`${runs.id} <> ${id}`));
    if ((taken?.bytes ?? 0) + bytes > limit) return false;
    await transaction.update(runs).set({ reservedBytes: bytes }).where(eq(runs.id, id));
    return true;
  });
}

export async function freeMemory(db: Database, id: string): Promise<void> {
  await db.update(runs).set({ reservedBytes: null }).where(eq(runs.id, id));
}

/** A worker that is alive, with the run that it does. */
export interface WorkerState {
  readonly name: string;
  readonly takesLarge: boolean;
  readonly run: RunAndPipeline | undefined;
}

export interface RunAndPipeline {
  readonly run: RunRow;
  readonly pipeline: string;
}

/** The workers that are alive, with what they do. */
export async function workerStates(db: Database): Promise<readonly WorkerState[]> {
  const [known, doing] = await Promise.all([
    db.select().from(workers).where(alive).orderBy(asc(workers.startedAt)),
    runsWithPipeline(db).where(held),
  ]);
  return known.map(({ name, takesLarge }) => ({
    name,
    takesLarge,
    run: doing.find((work) => work.run.worker === name),
  }));
}

/** Runs that wait for nothing but a worker, up to one of them, in their order. */
export async function queueBefore(db: Database, run: Pick<RunRow, "id">): Promise<readonly RunAndPipeline[]> {
  return runsWithPipeline(db)
    .where(
      and(
        eq(runs.state, "queued"),
        or(isNull(runs.notBefore), sql`${runs.notBefore} <= now()`),
        // A moment that was read has lost its microseconds.
        sql`${runs.createdAt} <= (SELECT created_at FROM runs WHERE id = ${run.id})`,
      ),
    )
    .orderBy(asc(runs.createdAt));
}

const runsWithPipeline = (db: Database) =>
  db
    .select({ run: runs, pipeline: pipelines.name })
    .from(runs)
    .innerJoin(pipelines, eq(pipelines.id, runs.pipelineId));

const seconds = sql<number>`extract(epoch FROM ${runs.finishedAt} - ${runs.startedAt})::double precision`;

/** How long the latest runs took that are like this one, in seconds. */
export async function pastSeconds(
  db: Database,
  run: Pick<RunRow, "kind" | "pipelineId">,
  most: number,
): Promise<readonly number[]> {
  const rows = await db
    .select({ seconds })
    .from(runs)
    .where(and(eq(runs.kind, run.kind), eq(runs.pipelineId, run.pipelineId), eq(runs.state, "done")))
    .orderBy(desc(runs.finishedAt))
    .limit(most);
  return rows.map((row) => row.seconds);
}

/** Seconds for a value looked at, of the latest runs of a kind in all pipelines. */
export async function pastPace(db: Database, kind: RunRow["kind"], most: number): Promise<readonly number[]> {
  const cells = sql<number>`(${runs.workload} ->> 'cells')::double precision`;
  const rows = await db
    .select({ pace: sql<number>`${seconds} / ${cells}` })
    .from(runs)
    .where(and(eq(runs.kind, kind), eq(runs.state, "done"), sql`${cells} > 0`))
    .orderBy(desc(runs.finishedAt))
    .limit(most);
  return rows.map((row) => row.pace);
}
