import { deliveryNamed } from "@/core/pipeline/deliveries";
import type PgBoss from "pg-boss";
import { cronMistake } from "@/core/schedule/cron";
import { slotsFrom } from "@/core/schedule/slots";
import { isZone } from "@/core/zone";
import { failure, problem, success, unwrap, type Result } from "@/core/problem";
import {
  backfillOnce,
  backfillRuns,
  noteBackfilled,
  openBackfills,
  setBackfillState,
  unfinishedOfBackfill,
  type BackfillRow,
} from "@/store/backfills";
import { announceRun } from "@/store/database";
import { modelById } from "@/store/models";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { addRun, askCancel } from "@/store/runs";
import type { Context } from "./context";
import { sendRun } from "./queue";
import { parseFile } from "./parse-file";

/** Most runs of one backfill. */
export const MOST_TIMES = 5000;
/** Most runs of one backfill under way at once. */
export const MOST_PARALLEL = 8;

export interface BackfillOrder {
  readonly pipeline: string;
  readonly from: Date;
  readonly until: Date;
  /** The first delivery when left out. */
  readonly delivery?: string;
  /** When runs would have happened; that of the delivery's schedule, or every midnight, when left out. */
  readonly cron?: string;
  readonly zone?: string;
  readonly parallel?: number;
  readonly modelId?: number;
  readonly by?: string;
}

/**
 * Orders a scoring for every logical time in a range, as if each had happened then. Runs are begun a few at a time by the workers.
 * Problems: unknown_pipeline, no_delivery, nothing_in_service, unknown_model, bad_range, bad_cron.
 */
export async function orderBackfill(context: Context, order: BackfillOrder): Promise<Result<BackfillRow>> {
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
  const { file } = unwrap(await parseFile(version.text));
  const delivery = deliveryNamed(file.delivery, order.delivery);
  if (!delivery)
    return failure(
      problem(
        "no_delivery",
        `"${order.pipeline}" has no delivery${order.delivery === undefined ? "" : ` "${order.delivery}"`}.`,
        "Add one under delivery.",
      ),
    );
  if (order.modelId === undefined && pipeline.inService === null && delivery.of === "predictions")
    return failure(
      problem(
        "nothing_in_service",
        `No model version of "${pipeline.name}" is in service, so scoring is not possible.`,
        "Train, check the metrics, and put the version in service.",
      ),
    );
  if (order.modelId !== undefined && (await modelById(db, order.modelId))?.pipelineId !== pipeline.id)
    return failure(problem("unknown_model", `"${pipeline.name}" has no such version.`));
  const now = await context.now();
  if (!(order.from <= order.until))
    return failure(
      problem(
        "bad_range",
        "The range ends before it starts.",
        "Choose a first time that is not after the last.",
      ),
    );
  if (order.until > now)
    return failure(
      problem(
        "bad_range",
        "The range extends into the future.",
        `Choose a last time up to now, ${now.toISOString()}.`,
      ),
    );
  const schedule = file.schedules.find(
    (candidate) =>
      candidate.run === "score" &&
      candidate.cron !== undefined &&
      deliveryNamed(file.delivery, candidate.delivery)?.name === delivery.name,
  );
  const cron = order.cron ?? schedule?.cron ?? "0 0 * * *";
  const zone = order.zone ?? (order.cron === undefined ? schedule?.zone : undefined) ?? "UTC";
  const mistake = cronMistake(cron) ?? (isZone(zone) ? undefined : `"${zone}" is not a time zone.`);
  if (mistake !== undefined)
    return failure(
      problem(
        "bad_cron",
        mistake,
        "Write five fields (minute, hour, day of month, month, day of week), and a zone such as Europe/Lisbon.",
      ),
    );
  const times = slotsFrom(cron, zone, order, MOST_TIMES + 1);
  if (times.length === 0)
    return failure(problem("bad_range", "The schedule has no times in that range.", "Widen it."));
  if (times.length > MOST_TIMES)
    return failure(
      problem(
        "bad_range",
        `More than ${MOST_TIMES} times are in that range.`,
        "Narrow the range, or use a less frequent schedule.",
      ),
    );
  return success(
    await backfillOnce(db, {
      pipelineId: pipeline.id,
      delivery: delivery.name,
      modelId: order.modelId ?? null,
      cron,
      zone,
      from: order.from,
      until: order.until,
      total: times.length,
      // What is newer than what has landed depends on what has: such runs go one after the other, in the order of their times.
      parallel:
        typeof delivery.rows === "object"
          ? 1
          : Math.min(MOST_PARALLEL, Math.max(1, Math.trunc(order.parallel ?? 2))),
      doneUntil: new Date(order.from.getTime() - 1),
      by: order.by ?? null,
    }),
  );
}

/** Ends a backfill: no further run begins, those that wait or are under way are cancelled, and what has landed stays. */
export async function stopBackfill(context: Context, id: number): Promise<void> {
  const { db } = context.store;
  await setBackfillState(db, id, "stopped");
  for (const run of await unfinishedOfBackfill(db, id)) await askCancel(db, run);
}

/**
 * Begins as many runs of each open backfill as may be under way. Any number of workers may call this at the same time, and one that
 * dies in between leaves nothing undone: a time's run has a name of its own, and the mark moves on only after it is there.
 */
export async function advanceBackfills(context: Context, boss: PgBoss): Promise<void> {
  const { db } = context.store;
  for (const backfill of await openBackfills(db)) {
    const { queued, running } = await backfillRuns(db, backfill.id);
    const room = backfill.parallel - queued - running;
    if (room <= 0) continue;
    const { cron, zone, until } = backfill;
    const from = new Date(backfill.doneUntil.getTime() + 1);
    const times = slotsFrom(cron, zone, { from, until }, room);
    if (times.length === 0 && queued + running === 0) await setBackfillState(db, backfill.id, "done");
    const version = await newestVersion(db, backfill.pipelineId);
    for (const runTime of version ? times : []) {
      const run = await addRun(db, {
        kind: "score",
        pipelineId: backfill.pipelineId,
        pipelineVersionId: version!.id,
        cause: "backfill",
        runTime,
        backfillId: backfill.id,
        slot: `backfill/${backfill.id}/${runTime.toISOString()}`,
        options: {
          delivery: backfill.delivery,
          ...(backfill.modelId === null ? {} : { model: backfill.modelId }),
        },
      });
      if (run) {
        await sendRun(boss, run);
        await announceRun(context.store, run.id);
      }
      await noteBackfilled(db, backfill.id, runTime);
    }
  }
}
