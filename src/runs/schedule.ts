import type PgBoss from "pg-boss";
import pino from "pino";
import { parseTableName } from "@/core/pipeline/table-name";
import { dueSlots, slotsBetween } from "@/core/schedule/slots";
import { announceRun } from "@/store/database";
import {
  findPipeline,
  leaveOut,
  listSchedules,
  newestVersion,
  noteSeen,
  pipelineById,
  settleSchedule,
  type ScheduleRow,
} from "@/store/pipelines";
import { addRun, runsDoneAfter, unfinishedOf } from "@/store/runs";
import { changeMarker } from "@/warehouse/facts";
import type { Context } from "./context";
import { sendRun } from "./queue";

const log = pino({ name: "ravlen", level: process.env["RAVLEN_LOG"] ?? "info" });

/** A run that waits for its sources is let go by {@link watchWaiting}, not by time. */
const NOT_BY_ITSELF = new Date("9999-01-01T00:00:00Z");

/**
 * Starts what is due. Any number of workers may call this at the same time: a slot's name is unique among runs,
 * so it runs once.
 */
export async function startDueRuns(context: Context, boss: PgBoss): Promise<number> {
  const { db } = context.store;
  const now = await context.now();
  let started = 0;
  for (const schedule of await listSchedules(db)) {
    if (schedule.paused) continue;
    const { occasions, settle } = await occasionsOf(context, schedule, now);
    if (occasions === undefined) continue;
    // Without a version in service there is nothing to score with; the page of deliveries says so, and no run has to fail for it.
    const idle =
      schedule.run === "score" && (await pipelineById(db, schedule.pipelineId))?.inService === null;
    const version = idle ? undefined : await newestVersion(db, schedule.pipelineId);
    const prefix = `${schedule.pipelineId}/${schedule.name}/`;
    // What waits for another pipeline or for rows has each its own reason to run.
    const room =
      schedule.cron === null
        ? occasions.length
        : Math.max(0, schedule.atOnce - (await unfinishedOf(db, prefix)));
    // Of several, the newest: it says more than those before it.
    const taken = room === 0 ? [] : occasions.slice(-room);
    if (version && taken.length < occasions.length) {
      await leaveOut(db, schedule.id, occasions.length - taken.length);
      log.warn(
        { schedule: schedule.name, pipeline: schedule.pipelineId, left: occasions.length - taken.length },
        "times left out: as many runs are under way as may be",
      );
    }
    for (const { name, runTime } of version ? taken : []) {
      const wait = schedule.wait && {
        for: schedule.wait.for,
        until: new Date(runTime.getTime() + schedule.wait.until * 60_000).toISOString(),
      };
      const run = await addRun(db, {
        kind: schedule.run,
        pipelineId: schedule.pipelineId,
        pipelineVersionId: version!.id,
        cause: "schedule",
        runTime,
        options: {
          ...(schedule.delivery === null ? {} : { delivery: schedule.delivery }),
          ...(wait ? { wait } : {}),
        },
        slot: `${prefix}${name}`,
        ...(wait ? { notBefore: NOT_BY_ITSELF, waitsFor: "its sources" } : {}),
      });
      if (!run) continue;
      if (!wait) await sendRun(boss, run.id);
      await announceRun(context.store, run.id);
      started += 1;
    }
    await settle();
  }
  return started;
}

/** Something that a schedule runs for, under a name that is its own. */
interface Occasion {
  readonly name: string;
  readonly runTime: Date;
}

/** What a schedule has to run for now, and how that is noted once it has been started; undefined when there is nothing new. */
async function occasionsOf(
  context: Context,
  schedule: ScheduleRow,
  now: Date,
): Promise<{ readonly occasions: readonly Occasion[] | undefined; readonly settle: () => Promise<void> }> {
  const { db } = context.store;
  const seen = (value: string) => () => noteSeen(db, schedule.id, value);
  const nothing = { occasions: undefined, settle: () => Promise.resolve() };
  if (schedule.cron !== null) {
    const slots = slotsBetween(schedule.cron, schedule.zone, schedule.doneUntil, now);
    if (slots.length === 0) return nothing;
    return {
      occasions: dueSlots(slots, now, schedule.missed).map((slot) => ({
        name: slot.toISOString(),
        runTime: slot,
      })),
      settle: () => settleSchedule(db, schedule.id, now),
    };
  }
  if (schedule.after !== null) {
    const upstream = await findPipeline(db, schedule.after);
    if (!upstream) return nothing;
    // The first look only notes from when on deliveries count. Times of the database, not of the demo's clock.
    if (schedule.seen === null) return { occasions: [], settle: seen(new Date().toISOString()) };
    const done = await runsDoneAfter(db, upstream.id, "score", new Date(schedule.seen));
    const last = done.at(-1)?.finishedAt;
    return last
      ? {
          occasions: done.map((each) => ({ name: `after ${each.id}`, runTime: each.runTime })),
          settle: seen(last.toISOString()),
        }
      : nothing;
  }
  const table = schedule.arrival === null ? undefined : parseTableName(schedule.arrival);
  const marker =
    table &&
    (await changeMarker((sql, values) => context.warehouse.read(sql, values, 5000), table).catch(() => ""));
  if (!marker || marker === schedule.seen) return nothing;
  return {
    occasions: schedule.seen === null ? [] : [{ name: `arrival ${marker}`, runTime: now }],
    settle: seen(marker),
  };
}
