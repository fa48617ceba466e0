import { Client } from "pg";
import PgBoss from "pg-boss";
import { problem, failure, success, type Result } from "@/core/problem";
import { announceRun } from "@/store/database";
import { findPipeline, newestVersion, type PipelineRow } from "@/store/pipelines";
import { addRun, type RunRow } from "@/store/runs";
import type { RunCause, RunKind, RunOptions } from "@/store/schema";
import type { Context } from "./context";

const QUEUE = "runs";
const IMPORTS = "imports";
/** The advisory lock that those who set up the queue take turns with; the number means nothing. */
const SETUP_LOCK = 7_203_115;

/** Opens the queue. `schedule` and `supervise` belong to the worker; others only send. */
export async function openQueue(
  databaseUrl: string,
  role: "worker" | "sender",
  onError: (error: Error) => void,
): Promise<PgBoss> {
  const boss = new PgBoss({
    connectionString: databaseUrl,
    max: 3,
    schema: "queue",
    schedule: false,
    supervise: role === "worker",
    migrate: true,
  });
  boss.on("error", onError);
  await oneAtATime(databaseUrl, async () => {
    await boss.start();
    for (const queue of [QUEUE, IMPORTS]) if (!(await boss.getQueue(queue))) await boss.createQueue(queue);
  });
  return boss;
}

/** Two processes that create a queue's table at the same moment can block each other for good; so they take turns. */
async function oneAtATime(databaseUrl: string, work: () => Promise<void>): Promise<void> {
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    await client.query("SELECT pg_advisory_lock($1)", [SETUP_LOCK]);
    await work();
  } finally {
    await client.end();
  }
}

/** Puts a run into the queue. The run's own row decides who does it, so a doubled message does no harm. */
export async function sendRun(boss: PgBoss, runId: string): Promise<void> {
  await boss.send(
    QUEUE,
    { runId },
    { retryLimit: 0, expireInHours: 23, singletonKey: runId, singletonSeconds: 10 },
  );
}

/** Works on queued runs, one at a time, until the boss is stopped. */
export async function workOnRuns(boss: PgBoss, work: (runId: string) => Promise<void>): Promise<void> {
  await boss.work<{ runId: string }>(QUEUE, { batchSize: 1, pollingIntervalSeconds: 0.5 }, async ([job]) => {
    if (job) await work(job.data.runId);
  });
}

/** Tells a worker that an import waits. Its row decides who does it. */
export async function sendImport(boss: PgBoss, id: string): Promise<void> {
  await boss.send(IMPORTS, { id }, { retryLimit: 0, expireInHours: 23 });
}

/** Works on imports, one at a time beside the runs. */
export async function workOnImports(boss: PgBoss, work: (id: string) => Promise<void>): Promise<void> {
  await boss.work<{ id: string }>(IMPORTS, { batchSize: 1, pollingIntervalSeconds: 0.5 }, async ([job]) => {
    if (job) await work(job.data.id);
  });
}

export interface Order {
  readonly kind: RunKind;
  readonly pipeline: string;
  readonly cause: RunCause;
  readonly runTime?: Date;
  readonly options?: RunOptions;
}

/** Orders a run of a pipeline's newest version and puts it into the queue. */
export async function orderRun(context: Context, boss: PgBoss, order: Order): Promise<Result<RunRow>> {
  const { db } = context.store;
  const pipeline = await findPipeline(db, order.pipeline);
  const version = pipeline && (await newestVersion(db, pipeline.id));
  if (!pipeline || !version)
    return failure(
      problem(
        "unknown_pipeline",
        `There is no pipeline "${order.pipeline}".`,
        "Save its file first: ./ravlen save FILE.",
      ),
    );
  const refused = refuse(order, pipeline);
  if (refused) return refused;
  const run = await addRun(db, {
    kind: order.kind,
    pipelineId: pipeline.id,
    pipelineVersionId: version.id,
    cause: order.cause,
    runTime: order.runTime ?? (await context.now()),
    ...(order.options ? { options: order.options } : {}),
  });
  if (!run) throw new Error("a run without a slot cannot clash");
  await sendRun(boss, run.id);
  await announceRun(context.store, run.id);
  return success(run);
}

function refuse(order: Order, pipeline: PipelineRow): Result<RunRow> | undefined {
  if (order.kind !== "score" || pipeline.inService !== null) return undefined;
  return failure(
    problem(
      "nothing_in_service",
      `No model version of "${pipeline.name}" is in service, so there is nothing to score with.`,
      "Train, look at the result, and put the version in service.",
    ),
  );
}
