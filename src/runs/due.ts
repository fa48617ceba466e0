import { isReadable } from "@/core/schedule/cron";
import { lastSlot, oncePerTime } from "@/core/schedule/slots";
import type { ScheduleRow } from "@/store/pipelines";
import type { RunRow } from "@/store/runs";
import { newestOfSchedules, runsFrom } from "@/store/schedule-runs";
import type { Context } from "./context";

/** How it stands with the last time of a schedule. "nothing due": skipped, or before the schedule was there. */
export type DueState = "done" | "running" | "failed" | "waiting" | "nothing due";

export interface Due {
  readonly slot: Date;
  readonly state: DueState;
  readonly run?: Pick<RunRow, "id" | "state">;
  /** Whether the time itself is still to be served: nobody has begun it, or its own run is not at its end. Other work may be under way beside. */
  readonly owed: boolean;
}

/** A schedule that runs at times. */
export type TimedSchedule = ScheduleRow & { readonly cron: string };
/** Whether it runs at times, and these can be told. One that an earlier version took, and that nobody can read, raises an alert. */
export const isTimed = (schedule: ScheduleRow): schedule is TimedSchedule =>
  schedule.cron !== null && isReadable(schedule.cron, schedule.zone);

/** Whether a schedule runs on an event: the arrival of rows, or what another pipeline delivers. */
export const isOnEvent = ({ cron }: ScheduleRow): boolean => cron === null;

const STATES: Readonly<Record<RunRow["state"], DueState>> = {
  done: "done",
  running: "running",
  queued: "running",
  failed: "failed",
  cancelled: "nothing due",
};

/**
 * How it stands with the last event of each schedule: its newest run, or rows that have arrived and may
 * not be whole yet.
 */
export async function eventStates(
  { store }: Context,
  schedules: readonly ScheduleRow[],
): Promise<readonly (Due | undefined)[]> {
  const newest = await newestOfSchedules(store.db, schedules);
  return schedules.map(({ arrival, arriving, seen }, index): Due | undefined => {
    if (arrival !== null && arriving && seen !== null && arriving.content !== seen)
      return { slot: new Date(arriving.changedAt), state: "waiting", owed: true };
    const run = newest[index];
    return run && { slot: run.runTime, state: STATES[run.state], run, owed: false };
  });
}

/**
 * Whether what was due at the last time of each schedule has been done: by the run of that time, or by any
 * later one for the same delivery.
 */
export async function dueStates(
  { store }: Context,
  schedules: readonly TimedSchedule[],
  now: Date,
): Promise<readonly Due[]> {
  const lastTime = oncePerTime((cron, zone) => lastSlot(cron, zone, now));
  const slots = schedules.map(({ cron, zone }) => lastTime(cron, zone));
  const since = await runsFrom(
    store.db,
    schedules.map(({ pipelineId, run }, index) => ({ pipelineId, kind: run, from: slots[index]! })),
  );
  return schedules.map((schedule, index) => dueOf(schedule, slots[index]!, since[index]!));
}

/**
 * How it stands with a time of a schedule.
 * @param since runs of its pipeline with this logical time or a later one, newest first
 */
function dueOf(schedule: TimedSchedule, slot: Date, since: readonly RunRow[]): Due {
  const relevant = since.filter(
    ({ options }) =>
      schedule.delivery === null || (options.delivery ?? schedule.delivery) === schedule.delivery,
  );
  const find = (...states: readonly RunRow["state"][]) =>
    relevant.find(({ state }) => states.includes(state));
  const done = find("done");
  if (done) return { slot, state: "done", run: done, owed: false };
  const begun = find("running", "queued");
  const own = `${schedule.pipelineId}/${schedule.name}/${slot.toISOString()}`;
  if (begun)
    return {
      slot,
      state: "running",
      run: begun,
      owed:
        schedule.doneUntil < slot ||
        relevant.some((run) => run.slot === own && (run.state === "running" || run.state === "queued")),
    };
  const failed = find("failed");
  if (failed) return { slot, state: "failed", run: failed, owed: false };
  return schedule.doneUntil >= slot
    ? { slot, state: "nothing due", owed: false }
    : { slot, state: "waiting", owed: true };
}
