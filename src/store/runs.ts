import { and, asc, desc, eq, gt, inArray, isNotNull, isNull, lt, or, sql } from "drizzle-orm";
import type { Problem } from "@/core/problem";
import type { Database } from "./database";
import {
  pipelines,
  runLog,
  runPasses,
  runResults,
  runs,
  runStatements,
  runSteps,
  type AnsweredRows,
  type RunCause,
  type RunKind,
  type RunOptions,
  type RunProgress,
} from "./schema";

export type RunRow = typeof runs.$inferSelect;
export type RunStepRow = typeof runSteps.$inferSelect;
export type RunStatementRow = typeof runStatements.$inferSelect;
export type RunLogRow = typeof runLog.$inferSelect;
export type RunPassRow = typeof runPasses.$inferSelect;

export interface NewRun {
  readonly kind: RunKind;
  readonly pipelineId: number;
  readonly pipelineVersionId: number;
  readonly cause: RunCause;
  readonly runTime: Date;
  readonly options?: RunOptions;
  readonly slot?: string;
  readonly backfillId?: number;
  readonly notBefore?: Date;
  readonly waitsFor?: string;
}

/** Adds a run. Gives undefined when its time slot already has one. */
export async function addRun(db: Database, run: NewRun): Promise<RunRow | undefined> {
  const [row] = await db
    .insert(runs)
    .values({ ...run, options: run.options ?? {} })
    .onConflictDoNothing()
    .returning();
  return row;
}

export async function runById(db: Database, id: string): Promise<RunRow | undefined> {
  return (await db.select().from(runs).where(eq(runs.id, id)))[0];
}

/** Ids of runs that begin in a way, at most some; lists show only beginnings. */
export async function runsBeginning(
  db: Database,
  beginning: string,
  most: number,
): Promise<readonly string[]> {
  const found = await db
    .select({ id: runs.id })
    .from(runs)
    .where(sql`left(${runs.id}::text, ${beginning.length}) = ${beginning.toLowerCase()}`)
    .limit(most);
  return found.map((run) => run.id);
}

/** How many runs are under way or wait, and how many were done, among those ordered within some hours. */
export async function countRuns(
  db: Database,
  hours: number,
): Promise<{ readonly active: number; readonly done: number }> {
  const [row] = await db
    .select({
      active: sql<number>`count(*) FILTER (WHERE ${runs.state} IN ('running', 'queued'))::integer`,
      done: sql<number>`count(*) FILTER (WHERE ${runs.state} = 'done')::integer`,
    })
    .from(runs)
    .where(gt(runs.createdAt, sql`now() - make_interval(hours => ${hours})`));
  return row ?? { active: 0, done: 0 };
}

export async function listRuns(
  db: Database,
  options: { readonly limit: number; readonly pipelineId?: number | undefined; readonly kind?: RunKind },
): Promise<readonly RunRow[]> {
  const conditions = [
    ...(options.pipelineId === undefined ? [] : [eq(runs.pipelineId, options.pipelineId)]),
    ...(options.kind ? [eq(runs.kind, options.kind)] : []),
  ];
  return db
    .select()
    .from(runs)
    .where(and(...conditions))
    .orderBy(desc(runs.createdAt))
    .limit(options.limit);
}

/**
 * Deliveries of a pipeline that were done after a moment, oldest first. Rows scored on demand are no delivery.
 * @param backfills whether those of backfills count
 */
export async function deliveriesAfter(
  db: Database,
  pipelineId: number,
  after: Date,
  backfills: boolean,
): Promise<readonly RunRow[]> {
  return db
    .select()
    .from(runs)
    .where(
      and(
        eq(runs.pipelineId, pipelineId),
        eq(runs.kind, "score"),
        eq(runs.state, "done"),
        gt(runs.finishedAt, after),
        sql`NOT ${runs.options} ? 'onDemand'`,
        backfills ? undefined : isNull(runs.backfillId),
      ),
    )
    .orderBy(asc(runs.finishedAt));
}

/** How long a worker may be silent before its run is taken up again, in seconds. */
export const LEASE_SECONDS = 15;
/** How often a run is taken up before it is given up. */
export const MOST_ATTEMPTS = 4;

const abandoned = sql`(${runs.state} = 'running' AND ${runs.heartbeatAt} < now() - make_interval(secs => ${LEASE_SECONDS}))`;

const ripe = sql`(${runs.notBefore} IS NULL OR ${runs.notBefore} <= now())`;

/** Takes a run for a worker, if it waits or was abandoned. Exactly one worker gets it. */
export async function claimRun(db: Database, id: string, worker: string): Promise<RunRow | undefined> {
  const [row] = await db
    .update(runs)
    .set({
      state: "running",
      notBefore: null,
      waitsFor: null,
      worker,
      heartbeatAt: sql`now()`,
      progress: null,
      reservedBytes: null,
      movedAt: sql`now()`,
      attempt: sql`${runs.attempt} + 1`,
      startedAt: sql`coalesce(${runs.startedAt}, now())`,
      problems: [],
    })
    .where(and(eq(runs.id, id), sql`((${runs.state} = 'queued' AND ${ripe}) OR ${abandoned})`))
    .returning();
  return row;
}

/** What a beat tells of a run: how far its step has come, and for how many seconds nothing has moved. */
export interface RunLiveness {
  readonly progress: RunProgress | null;
  readonly stillFor: number;
}

/** Keeps a claim alive and tells how far it has come. Says whether the run was asked to stop, or is no longer this worker's. */
export async function beat(
  db: Database,
  id: string,
  worker: string,
  { progress, stillFor }: RunLiveness,
): Promise<{ readonly cancel: boolean; readonly lost: boolean }> {
  const [row] = await db
    .update(runs)
    .set({ heartbeatAt: sql`now()`, progress, movedAt: sql`now() - make_interval(secs => ${stillFor})` })
    .where(and(eq(runs.id, id), eq(runs.worker, worker), eq(runs.state, "running")))
    .returning({ cancel: runs.cancelAsked });
  return { cancel: row?.cancel ?? false, lost: row === undefined };
}

/** Runs whose worker has gone silent, for another to take up. */
export async function abandonedRuns(db: Database): Promise<readonly RunRow[]> {
  return db.select().from(runs).where(abandoned);
}

/** Gives a claim back, to be taken up again by anybody after some seconds. */
export async function postponeRun(
  db: Database,
  { id, attempt }: Pick<RunRow, "id" | "attempt">,
  seconds: number,
  waitsFor: string,
): Promise<void> {
  await db
    .update(runs)
    .set({
      state: "queued",
      worker: null,
      notBefore: sql`now() + make_interval(secs => ${seconds})`,
      waitsFor,
    })
    .where(and(eq(runs.id, id), eq(runs.attempt, attempt), eq(runs.state, "running")));
}

/** Gives a claim back because the warehouse is away. That is no attempt of the run: it waits for as long as it takes. */
export async function waitForWarehouse(
  db: Database,
  run: Pick<RunRow, "id" | "attempt">,
  seconds: number,
): Promise<void> {
  await db
    .update(runs)
    .set({ retriedAt: sql`${runs.retriedAt} + 1` })
    .where(and(eq(runs.id, run.id), eq(runs.attempt, run.attempt), eq(runs.state, "running")));
  await postponeRun(db, run, seconds, "The warehouse is unreachable; the run continues when it is back.");
}

/** Runs that wait for their sources. */
export async function runsWaiting(db: Database): Promise<readonly RunRow[]> {
  return db
    .select()
    .from(runs)
    .where(and(eq(runs.state, "queued"), sql`${runs.options} ? 'wait'`, gt(runs.notBefore, sql`now()`)));
}

/** What a run waited for has come. */
export async function releaseRun(db: Database, id: string): Promise<void> {
  await db
    .update(runs)
    .set({ notBefore: null, waitsFor: null })
    .where(and(eq(runs.id, id), eq(runs.state, "queued")));
}

/** Records which version of the file a run follows, where that is not the one it was ordered with. */
export async function recordFile(db: Database, id: string, pipelineVersionId: number): Promise<void> {
  await db.update(runs).set({ pipelineVersionId }).where(eq(runs.id, id));
}

/** Lets a run that failed go on, as its next attempt. Gives undefined when it was none. */
export async function retryRun(db: Database, id: string): Promise<RunRow | undefined> {
  const [again] = await db
    .update(runs)
    .set({
      state: "queued",
      cancelAsked: false,
      finishedAt: null,
      notBefore: null,
      waitsFor: null,
      retriedAt: runs.attempt,
      outcome: null,
    })
    .where(and(eq(runs.id, id), eq(runs.state, "failed"), ofLivingPipeline))
    .returning();
  return again;
}

/** Forgets statements, passes and logs of runs that ended some days ago. @returns how many runs were meant */
export async function forgetRecords(db: Database, days: number): Promise<number> {
  const old = db
    .select({ id: runs.id })
    .from(runs)
    .where(
      and(
        inArray(runs.state, ["done", "failed", "cancelled"]),
        sql`${runs.finishedAt} < now() - make_interval(days => ${days})`,
      ),
    );
  const gone = await db
    .delete(runStatements)
    .where(inArray(runStatements.runId, old))
    .returning({ run: runStatements.runId });
  await db.delete(runPasses).where(inArray(runPasses.runId, old));
  await db.delete(runLog).where(inArray(runLog.runId, old));
  await db.delete(runResults).where(inArray(runResults.runId, old));
  return new Set(gone.map(({ run }) => run)).size;
}

/** Which of some runs are at their end, how they ended, and how many hours ago. */
export async function endedRuns(
  db: Database,
  ids: readonly string[],
): Promise<ReadonlyMap<string, { readonly state: RunRow["state"]; readonly hours: number }>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({
      id: runs.id,
      state: runs.state,
      hours: sql<number>`extract(epoch FROM now() - ${runs.finishedAt})::float8 / 3600`,
    })
    .from(runs)
    .where(and(inArray(runs.id, [...ids]), inArray(runs.state, ["done", "failed", "cancelled"])));
  return new Map(rows.map((row) => [row.id, row]));
}

/** How many runs are not at their end, those that wait for something left out. */
export async function unfinishedRuns(db: Database): Promise<number> {
  return db.$count(
    runs,
    and(
      inArray(runs.state, ["queued", "running"]),
      sql`NOT (${runs.state} = 'queued' AND coalesce(${runs.notBefore} > now() + interval '1 minute', false))`,
    ),
  );
}

/** The newest scoring run of each delivery of a pipeline; rows on demand and backfills left out. */
export async function newestByDelivery(db: Database, pipelineId: number): Promise<readonly RunRow[]> {
  const delivery = sql`coalesce(${runs.options}->>'delivery', '')`;
  return db
    .selectDistinctOn([delivery])
    .from(runs)
    .where(
      and(
        eq(runs.pipelineId, pipelineId),
        eq(runs.kind, "score"),
        isNull(runs.backfillId),
        sql`${runs.options}->'onDemand' IS NULL`,
      ),
    )
    .orderBy(delivery, desc(runs.createdAt));
}

/** How many runs of a schedule are not at their end. */
export async function unfinishedOf(db: Database, slotPrefix: string): Promise<number> {
  return db.$count(
    runs,
    and(inArray(runs.state, ["queued", "running"]), sql`starts_with(${runs.slot}, ${slotPrefix})`),
  );
}

/** Runs whose time has come although nothing may be in the queue for them: they were put off, or a crash came between the two writes. */
export async function waitingRuns(db: Database): Promise<readonly RunRow[]> {
  return db
    .select()
    .from(runs)
    .where(
      and(
        eq(runs.state, "queued"),
        ripe,
        or(isNotNull(runs.notBefore), lt(runs.createdAt, sql`now() - interval '20 seconds'`)),
      ),
    );
}

export interface RunEnd {
  readonly state: "done" | "failed" | "cancelled";
  readonly problems?: readonly Problem[];
  readonly rows?: number;
  readonly outcome?: string;
  readonly modelId?: number;
  readonly answers?: AnsweredRows;
}

/** Ends an attempt of a run, unless it already ended or another attempt has begun since. Tells whether it did. */
export async function endRun(
  db: Database,
  { id, attempt }: Pick<RunRow, "id" | "attempt">,
  end: RunEnd,
): Promise<boolean> {
  const ended = await db
    .update(runs)
    .set({
      state: end.state,
      finishedAt: sql`now()`,
      problems: end.problems ?? [],
      rows: end.rows ?? null,
      outcome: end.outcome ?? null,
      ...(end.modelId === undefined ? {} : { modelId: end.modelId }),
      ...(end.answers === undefined ? {} : { answers: end.answers }),
    })
    .where(and(eq(runs.id, id), eq(runs.attempt, attempt), inArray(runs.state, ["running", "queued"])))
    .returning({ id: runs.id });
  if (ended.length > 0 && end.state !== "done")
    await db
      .update(runSteps)
      .set({ state: end.state, finishedAt: sql`now()` })
      .where(and(eq(runSteps.runId, id), eq(runSteps.state, "running")));
  return ended.length > 0;
}

/** That the pipeline of a run was not deleted. */
const ofLivingPipeline = sql`EXISTS (SELECT FROM ${pipelines} WHERE ${pipelines.id} = ${runs.pipelineId} AND ${pipelines.deletedAt} IS NULL)`;

/** Asks a run to stop. A waiting one is cancelled at once. */
export async function askCancel(db: Database, id: string): Promise<void> {
  await db
    .update(runs)
    .set({ cancelAsked: true })
    .where(and(eq(runs.id, id), inArray(runs.state, ["queued", "running"])));
  await db
    .update(runs)
    .set({ state: "cancelled", finishedAt: sql`now()`, outcome: "cancelled before it started" })
    .where(and(eq(runs.id, id), eq(runs.state, "queued")));
}

export async function addStep(
  db: Database,
  step: { runId: string; position: number; attempt: number; name: string },
): Promise<RunStepRow> {
  const [row] = await db
    .insert(runSteps)
    .values({ ...step, state: "running" })
    .returning();
  return row!;
}

export async function endStep(
  db: Database,
  id: number,
  end: { state: "done" | "failed" | "cancelled"; rows?: number | undefined; detail?: string | undefined },
): Promise<void> {
  await db
    .update(runSteps)
    .set({ state: end.state, rows: end.rows ?? null, detail: end.detail ?? null, finishedAt: sql`now()` })
    .where(eq(runSteps.id, id));
}

export async function addStatement(
  db: Database,
  statement: {
    runId: string;
    stepId: number;
    purpose: string;
    sql: string;
    milliseconds: number;
    rows: number | null;
  },
): Promise<void> {
  await db.insert(runStatements).values(statement);
}

export async function addLog(
  db: Database,
  runId: string,
  level: RunLogRow["level"],
  message: string,
): Promise<void> {
  await db.insert(runLog).values({ runId, level, message });
}

export async function addPasses(
  db: Database,
  passes: readonly (typeof runPasses.$inferInsert)[],
): Promise<void> {
  await db.insert(runPasses).values([...passes]);
}

export interface RunRecord {
  readonly steps: readonly RunStepRow[];
  readonly log: readonly RunLogRow[];
  readonly passes: readonly RunPassRow[];
}

/** Steps, log and passes of a run, in order. */
export async function runRecord(db: Database, id: string): Promise<RunRecord> {
  const [steps, log, passes] = await Promise.all([
    db.select().from(runSteps).where(eq(runSteps.runId, id)).orderBy(asc(runSteps.id)),
    db.select().from(runLog).where(eq(runLog.runId, id)).orderBy(asc(runLog.id)),
    db.select().from(runPasses).where(eq(runPasses.runId, id)).orderBy(asc(runPasses.id)),
  ]);
  return { steps, log, passes };
}

export async function runStatementsOf(db: Database, id: string): Promise<readonly RunStatementRow[]> {
  return db.select().from(runStatements).where(eq(runStatements.runId, id)).orderBy(asc(runStatements.id));
}
