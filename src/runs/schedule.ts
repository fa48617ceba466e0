import type PgBoss from "pg-boss";
import pino from "pino";
import { cronMistake } from "@/core/schedule/cron";
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
  type PipelineVersionRow,
} from "@/store/pipelines";
import { problem, type Problem } from "@/core/problem";
import { clearAlert, openMatters, raiseAlert } from "@/store/alerts";
import { addRun, deliveriesAfter, unfinishedOf } from "@/store/runs";
import { lookForArrival } from "./arrival";
import { lastStart } from "@/store/settings";
import type { Context } from "./context";
import { isConnectionLoss, problemsOf } from "./failure";
import { featureDelivery } from "./feature-delivery";
import { sendRun } from "./queue";

const log = pino({ name: "ravlen", level: process.env["RAVLEN_LOG"] ?? "info" });

/** A run that waits for its sources is let go by {@link watchWaiting}, not by time. */
const NOT_BY_ITSELF = new Date("9999-01-01T00:00:00Z");

/** Whether a schedule waits for rows, whose table may take long to read. */
export const waitsForRows = (schedule: ScheduleRow): boolean => schedule.arrival !== null;

/**
 * Starts what is due. Any number of workers may call this at the same time: a slot's name is unique among runs,
 * so it runs once. A schedule that cannot be started raises an alert, and holds up none of the others.
 * @param among which schedules; all when left out
 */
export async function startDueRuns(
  context: Context,
  boss: PgBoss,
  among: (schedule: ScheduleRow) => boolean = () => true,
): Promise<number> {
  const { db } = context.store;
  const now = await context.now();
  let started = 0;
  const blocked = new Map<string, BlockedSchedule>();
  const schedules = await listSchedules(db);
  for (const schedule of schedules.filter(among)) {
    if (schedule.paused) continue;
    const block = (because: Problem): void => void blocked.set(matterOf(schedule), { schedule, because });
    try {
      const outcome = await startSchedule(context, boss, schedule, now);
      started += outcome.started;
      if (outcome.because) block(outcome.because);
    } catch (error) {
      // Without the database none of the others can be looked at either.
      if (isConnectionLoss(error)) throw error;
      block(problemsOf(error)[0]!);
    }
  }
  const others = new Set(schedules.filter((schedule) => !among(schedule)).map(matterOf));
  await noteBlocked(context, blocked, others);
  return started;
}

/** Starts what is due of one schedule. Says how many runs it started, and why it cannot be seen what is due. */
async function startSchedule(
  context: Context,
  boss: PgBoss,
  schedule: ScheduleRow,
  now: Date,
): Promise<{ readonly started: number; readonly because?: Problem }> {
  const { db } = context.store;
  const { occasions, settle, because } = await occasionsOf(context, schedule, now);
  if (occasions === undefined) return { started: 0, ...(because ? { because } : {}) };
  // Without a version in service there is nothing to score with; the page of deliveries says so, and no run has to fail for it.
  const newest = await newestVersion(db, schedule.pipelineId);
  const idle = await isIdle(context, schedule, newest);
  const version = idle ? undefined : newest;
  const prefix = `${schedule.pipelineId}/${schedule.name}/`;
  // Each delivery of another pipeline is a reason of its own to run.
  const room =
    schedule.after !== null
      ? occasions.length
      : Math.max(0, schedule.atOnce - (await unfinishedOf(db, prefix)));
  // Rows that have arrived are still there when there is room again.
  if (schedule.arrival !== null && room === 0) return { started: 0 };
  // Of several, the newest: it says more than those before it.
  const taken = room === 0 ? [] : occasions.slice(-room);
  if (version && taken.length < occasions.length) {
    await leaveOut(db, schedule.id, occasions.length - taken.length);
    log.warn(
      { schedule: schedule.name, pipeline: schedule.pipelineId, left: occasions.length - taken.length },
      "times skipped: the limit of parallel runs is reached",
    );
  }
  let started = 0;
  for (const occasion of version ? taken : [])
    if (await startRun(context, boss, schedule, { ...occasion, version: version!.id })) started += 1;
  await settle();
  return { started };
}

/** Whether there is nothing to score with. */
async function isIdle(
  context: Context,
  schedule: ScheduleRow,
  version: PipelineVersionRow | undefined,
): Promise<boolean> {
  if (schedule.run !== "score" || version === undefined) return false;
  const pipeline = await pipelineById(context.store.db, schedule.pipelineId);
  if (pipeline?.inService !== null) return false;
  const options = schedule.delivery === null ? {} : { delivery: schedule.delivery };
  return (await featureDelivery(context, { pipelineVersionId: version.id, options })) === undefined;
}

/** Orders the run of one occasion; false when there is one already. */
async function startRun(
  context: Context,
  boss: PgBoss,
  schedule: ScheduleRow,
  { name, runTime, version }: Occasion & { readonly version: number },
): Promise<boolean> {
  const wait = schedule.wait && {
    for: schedule.wait.for,
    until: new Date(runTime.getTime() + schedule.wait.until * 60_000).toISOString(),
  };
  const run = await addRun(context.store.db, {
    kind: schedule.run,
    pipelineId: schedule.pipelineId,
    pipelineVersionId: version,
    cause: "schedule",
    runTime,
    options: {
      ...(schedule.delivery === null ? {} : { delivery: schedule.delivery }),
      ...(wait ? { wait } : {}),
    },
    slot: `${schedule.pipelineId}/${schedule.name}/${name}`,
    ...(wait ? { notBefore: NOT_BY_ITSELF, waitsFor: "its sources" } : {}),
  });
  if (!run) return false;
  if (!wait) await sendRun(boss, run);
  await announceRun(context.store, run.id);
  return true;
}

interface BlockedSchedule {
  readonly schedule: ScheduleRow;
  readonly because: Problem;
}

const matterOf = ({ id }: ScheduleRow): string => `blocked:${id}`;

/**
 * Raises an alert for each schedule that cannot see what it waits for, once, and clears those that can again.
 * @param others matters that were not looked at
 */
async function noteBlocked(
  { store: { db } }: Context,
  blocked: ReadonlyMap<string, BlockedSchedule>,
  others: ReadonlySet<string>,
): Promise<void> {
  const open = new Set(await openMatters(db, "blocked"));
  for (const [matter, { schedule, because }] of blocked) {
    if (open.has(matter)) continue;
    const pipeline = await pipelineById(db, schedule.pipelineId);
    await raiseAlert(db, {
      matter,
      kind: "blocked",
      pipelineId: schedule.pipelineId,
      title: `“${schedule.name}” of ${pipeline?.name ?? ""} cannot start`,
      problems: [because],
    });
  }
  for (const matter of open)
    if (!blocked.has(matter) && !others.has(matter))
      await clearAlert(db, matter, "it can see what it waits for again");
}

/** Something that a schedule runs for, under a name that is its own. */
interface Occasion {
  readonly name: string;
  readonly runTime: Date;
}

interface Look {
  /** Undefined when there is nothing new. */
  readonly occasions: readonly Occasion[] | undefined;
  /** Notes that what was found has been started. */
  readonly settle: () => Promise<void>;
  /** Why it cannot be seen whether there is something new. */
  readonly because?: Problem;
}

/** What a schedule has to run for now. */
async function occasionsOf(context: Context, schedule: ScheduleRow, now: Date): Promise<Look> {
  const { db } = context.store;
  const seen = (value: string) => () => noteSeen(db, schedule.id, value);
  const nothing: Look = { occasions: undefined, settle: () => Promise.resolve() };
  if (schedule.cron !== null) {
    const mistake = cronMistake(schedule.cron);
    if (mistake !== undefined)
      return {
        ...nothing,
        because: problem(
          "bad_cron",
          mistake,
          "Write five fields in the schedule: minute, hour, day of month, month, day of week.",
          { path: ["schedules"] },
        ),
      };
    const slots = slotsBetween(schedule.cron, schedule.zone, schedule.doneUntil, now);
    if (slots.length === 0) return nothing;
    return {
      occasions: dueSlots(slots, now, schedule.missed, await lastStart(db)).map((slot) => ({
        name: slot.toISOString(),
        runTime: slot,
      })),
      settle: () => settleSchedule(db, schedule.id, now),
    };
  }
  if (schedule.after !== null) {
    const upstream = await findPipeline(db, schedule.after);
    if (!upstream)
      return {
        ...nothing,
        because: problem(
          "unknown_pipeline",
          `It runs after "${schedule.after}", but there is no pipeline by that name.`,
          "Name another pipeline in the schedule, or save that one again.",
          { path: ["schedules"] },
        ),
      };
    // The first look only notes from when on deliveries count. Times of the database, not of the demo's clock.
    if (schedule.seen === null) return { occasions: [], settle: seen(new Date().toISOString()) };
    const since = new Date(schedule.seen);
    const done = await deliveriesAfter(db, upstream.id, since, schedule.afterBackfill);
    const last = done.at(-1)?.finishedAt;
    return last
      ? {
          occasions: done.map((run) => ({ name: `after ${run.id}`, runTime: run.runTime })),
          settle: seen(last.toISOString()),
        }
      : nothing;
  }
  const arrival = await lookForArrival(context, schedule, now);
  if (!arrival.ok) return { ...nothing, because: arrival.problems[0]! };
  const { content } = arrival.value;
  return content === undefined
    ? nothing
    : { occasions: [{ name: `arrival ${content}`, runTime: now }], settle: seen(content) };
}
