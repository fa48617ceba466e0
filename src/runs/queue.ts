import { Client } from "pg";
import PgBoss from "pg-boss";
import { problem, failure, success, type Result } from "@/core/problem";
import { announceRun } from "@/store/database";
import { findPipeline, newestVersion, type PipelineRow } from "@/store/pipelines";
import type { Workload } from "@/core/plan/workload";
import { orderOnce } from "@/store/orders";
import { runById, type RunRow } from "@/store/runs";
import type { RunCause, RunKind, RunOptions } from "@/store/schema";
import type { Context } from "./context";
import { featureDelivery } from "./feature-delivery";

const QUEUE = "runs";
/** Runs that are known to be large, which not every worker takes. */
const LARGE = "large-runs";
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
    for (const queue of [QUEUE, LARGE, IMPORTS])
      if (!(await boss.getQueue(queue))) await boss.createQueue(queue);
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
export async function sendRun(
  boss: PgBoss,
  { id, workload }: Pick<RunRow, "id" | "workload">,
): Promise<void> {
  await boss.send(
    workload?.small === false ? LARGE : QUEUE,
    { runId: id },
    { retryLimit: 0, expireInHours: 23, singletonKey: id, singletonSeconds: 10 },
  );
}

/** What a worker needs to take runs from the queue. */
export interface RunTaker {
  readonly takesLarge: boolean;
  /** Estimates how much a run has to do; undefined where that cannot be told. */
  readonly sizeUp: (run: RunRow) => Promise<Workload | undefined>;
  readonly work: (runId: string) => Promise<void>;
}

/**
 * Takes the next run for a worker, large ones first where it takes those; a large one that it does not take is left to a worker that does.
 * The message is done with once it is read: what becomes of the run, its own row says.
 * @returns whether there was a message
 */
export async function workOnNextRun(
  context: Context,
  boss: PgBoss,
  { takesLarge, sizeUp, work }: RunTaker,
): Promise<boolean> {
  for (const queue of takesLarge ? [LARGE, QUEUE] : [QUEUE]) {
    const [job] = await boss.fetch<{ runId: string }>(queue);
    if (!job) continue;
    await boss.complete(queue, job.id);
    const run = await runById(context.store.db, job.data.runId);
    if (!run) return true;
    const workload = (await sizeUp(run)) ?? null;
    if (workload?.small !== false || takesLarge) await work(run.id);
    else await sendRun(boss, { id: run.id, workload });
    return true;
  }
  return false;
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

/** Orders a run of a pipeline's newest version and puts it into the queue. The same order twice is one run, until that has ended. */
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
  const refused = await refuse(context, order, pipeline, version.id);
  if (refused) return refused;
  const { run } = await orderOnce(
    db,
    {
      kind: order.kind,
      pipelineId: pipeline.id,
      pipelineVersionId: version.id,
      cause: order.cause,
      runTime: order.runTime ?? (await context.now()),
      ...(order.options ? { options: order.options } : {}),
    },
    order.runTime !== undefined,
  );
  await sendRun(boss, run);
  await announceRun(context.store, run.id);
  return success(run);
}

async function refuse(
  context: Context,
  order: Order,
  pipeline: PipelineRow,
  pipelineVersionId: number,
): Promise<Result<RunRow> | undefined> {
  if (order.kind !== "score" || pipeline.inService !== null) return undefined;
  if (await featureDelivery(context, { pipelineVersionId, options: order.options ?? {} })) return undefined;
  return failure(
    problem(
      "nothing_in_service",
      `No model version of "${pipeline.name}" is in service, so scoring is not possible.`,
      "Train, check the metrics, and put the version in service.",
    ),
  );
}
