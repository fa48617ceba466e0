import { isReadable } from "@/core/schedule/cron";
import { lastSlot } from "@/core/schedule/slots";
import type { ScheduleRow } from "@/store/pipelines";
import { newestOfSchedule, runsFrom, type RunRow } from "@/store/runs";
import type { Context } from "./context";

/** How it stands with the last time of a schedule. "nothing due": skipped, or before the schedule was there. */
export type DueState = "done" | "under way" | "failed" | "waiting" | "nothing due";

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
  running: "under way",
  queued: "under way",
  failed: "failed",
  cancelled: "nothing due",
};

/** How it stands with the last event of a schedule: its newest run, or rows that have arrived and may not be whole yet. */
export async function eventState({ store }: Context, schedule: ScheduleRow): Promise<Due | undefined> {
  const { arriving, seen } = schedule;
  if (schedule.arrival !== null && arriving && seen !== null && arriving.content !== seen)
    return { slot: new Date(arriving.changedAt), state: "waiting", owed: true };
  const run = await newestOfSchedule(store.db, `${schedule.pipelineId}/${schedule.name}/`);
  return run && { slot: run.runTime, state: STATES[run.state], run, owed: false };
}

/** Whether what was due at a schedule's last time has been done: by the run of that time, or by any later one for the same delivery. */
export async function dueState(context: Context, schedule: TimedSchedule, now: Date): Promise<Due> {
  const slot = lastSlot(schedule.cron, schedule.zone, now);
  const since = (
    await runsFrom(context.store.db, { pipelineId: schedule.pipelineId, kind: schedule.run, from: slot })
  ).filter(
    (each) =>
      schedule.delivery === null || (each.options.delivery ?? schedule.delivery) === schedule.delivery,
  );
  const find = (...states: readonly RunRow["state"][]) => since.find((each) => states.includes(each.state));
  const done = find("done");
  if (done) return { slot, state: "done", run: done, owed: false };
  const begun = find("running", "queued");
  const own = `${schedule.pipelineId}/${schedule.name}/${slot.toISOString()}`;
  if (begun)
    return {
      slot,
      state: "under way",
      run: begun,
      owed:
        schedule.doneUntil < slot ||
        since.some((each) => each.slot === own && (each.state === "running" || each.state === "queued")),
    };
  const failed = find("failed");
  if (failed) return { slot, state: "failed", run: failed, owed: false };
  return schedule.doneUntil >= slot
    ? { slot, state: "nothing due", owed: false }
    : { slot, state: "waiting", owed: true };
}
