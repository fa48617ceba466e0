import { group } from "d3-array";
import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import { measuredMetrics } from "@/core/evaluate/truth";
import { slotsBetween } from "@/core/schedule/slots";
import { threadOf, type Mark, type ScheduledRun } from "@/core/schedule/thread";
import { isTimed } from "@/runs/due";
import { largestDrift } from "@/store/drift";
import type { ScheduleRow } from "@/store/pipelines";
import { runsOfSchedules, type ThreadRun } from "@/store/schedule-runs";
import { clockOffset } from "@/store/settings";
import { truthOfPipelines, type TruthRow } from "@/store/truth";
import { appContext } from "./context";

const DAYS = 30;
const DAY_MILLISECONDS = 86_400_000;
/** Marks on a thread; more times than that are taken together. */
const MOST_MARKS = 90;

interface Moment {
  readonly name: string;
  readonly value: number;
}

/** What the last days of a schedule looked like. */
export interface ScheduleThread {
  /** Ends of the time that is shown, in milliseconds since 1970. */
  readonly from: number;
  readonly until: number;
  readonly marks: readonly Mark[];
  /** A metric of its predictions whose actuals have arrived, by day. */
  readonly live: { readonly metric: string; readonly days: readonly Moment[] } | undefined;
  /** The largest drift of a column, by run. */
  readonly drift: readonly Moment[];
}

const minutesBetween = (from: Date, until: Date): number => (until.getTime() - from.getTime()) / 60_000;

/** A run as its thread shows it. The demo's clock passes over days at once: there, a run counts from when it was begun. */
const threadRun =
  (isDemoClock: boolean) =>
  ({ id, runTime, state, rows, createdAt, finishedAt }: ThreadRun): ScheduledRun => ({
    id,
    at: runTime.getTime(),
    state,
    rows,
    minutes: finishedAt && minutesBetween(isDemoClock ? createdAt : runTime, finishedAt),
  });

function slotsOf(schedule: ScheduleRow, from: Date, until: Date): readonly number[] {
  if (!isTimed(schedule)) return [];
  const end = schedule.doneUntil < until ? schedule.doneUntil : until;
  return slotsBetween(schedule.cron, schedule.zone, from, end).map((slot) => slot.getTime());
}

/** The first of the metrics of a kind of target that every day has; of several versions on a day the newest counts. */
function liveOf(days: readonly TruthRow[]): ScheduleThread["live"] {
  const metrics: readonly MetricName[] = [...measuredMetrics("binary"), ...measuredMetrics("number")];
  const metric = metrics.find((one) => days.some(({ figures }) => typeof figures[one] === "number"));
  if (metric === undefined) return undefined;
  const byDay = new Map(
    days.flatMap(({ day, figures }) => {
      const value = figures[metric];
      return typeof value === "number" ? [[day, value] as const] : [];
    }),
  );
  return {
    metric: METRICS[metric].title,
    days: [...byDay].map(([name, value]) => ({ name, value })),
  };
}

/** What the last thirty days of some schedules looked like, in their order. */
export async function threadsOfSchedules(
  schedules: readonly ScheduleRow[],
  until: Date,
): Promise<readonly ScheduleThread[]> {
  const { store } = await appContext();
  const from = new Date(until.getTime() - DAYS * DAY_MILLISECONDS);
  const pipelineIds = [...new Set(schedules.map(({ pipelineId }) => pipelineId))];
  const [runs, offset, truth, drift] = await Promise.all([
    runsOfSchedules(store.db, schedules, from),
    clockOffset(store.db),
    truthOfPipelines(store.db, pipelineIds, from.toISOString().slice(0, 10)),
    largestDrift(store.db, pipelineIds, from),
  ]);
  const truthByPipeline = group(truth, ({ pipelineId }) => pipelineId);
  const driftByPipeline = group(drift, ({ pipelineId }) => pipelineId);
  return schedules.map((schedule, index) => ({
    from: from.getTime(),
    until: until.getTime(),
    marks: threadOf(runs[index]!.map(threadRun(offset !== 0)), slotsOf(schedule, from, until), {
      from: from.getTime(),
      until: until.getTime(),
      lateAfter: schedule.lateAfter,
      most: MOST_MARKS,
    }),
    live: liveOf(
      (truthByPipeline.get(schedule.pipelineId) ?? []).filter(
        ({ delivery }) => schedule.delivery === null || delivery === schedule.delivery,
      ),
    ),
    drift: (driftByPipeline.get(schedule.pipelineId) ?? []).map(({ runTime, psi }) => ({
      name: runTime.toISOString(),
      value: psi,
    })),
  }));
}
