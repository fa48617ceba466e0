import type { Due, DueState } from "@/runs/due";
import { MUCH_DRIFT, SOME_DRIFT } from "@/core/evaluate/drift";
import { formatNumber } from "@/core/format/numbers";
import type { ScheduleThread as Thread } from "@/server/schedule-threads";
import type { ScheduleRow } from "@/store/pipelines";
import { ago, moment } from "../basic/format";
import { PageLink } from "../basic/page-link";
import { TrendCell } from "../charts/trend-cell";
import { DeliverLink } from "./deliver-link";
import { eventWords } from "./event-words";
import { ShowAll, type WholePart } from "./first-few";
import { ScheduleThread } from "./schedule-thread";
import { ThreadDates } from "./thread-dates";
import { ThreadLegend } from "./thread-marks";
import { Sheet } from "../basic/sheet";

const DUE_TONE: Readonly<Record<DueState, string>> = {
  done: "text-moss",
  running: "text-woad",
  failed: "text-madder",
  waiting: "text-weld",
  "nothing due": "text-faded",
};

/** A schedule, and how it stands with what was due last. */
export interface ScheduleDue {
  readonly schedule: ScheduleRow;
  readonly due: Due | undefined;
}

/** A schedule of the table, with its last thirty days. */
export interface ScheduleLine extends ScheduleDue {
  readonly thread: Thread;
}

/** When a schedule was due last, and how that stands; of one that runs on an event, whether there was any. */
function DueCells({
  schedule,
  due,
  time,
}: {
  readonly schedule: ScheduleRow;
  readonly due: Due | undefined;
  readonly time: Date;
}) {
  if (!due)
    return (
      <>
        <td className="text-faded">{eventWords(schedule)}</td>
        <td className="text-faded">nothing yet</td>
      </>
    );
  const { slot, state, run } = due;
  return (
    <>
      <td>
        <span className="whitespace-nowrap">
          {ago(slot, time)} <span className="text-faded">{moment(slot)}</span>
        </span>
        {schedule.cron === null && (
          <span className="block text-caption text-faded">{eventWords(schedule)}</span>
        )}
      </td>
      <td className={DUE_TONE[state]}>
        {run ? (
          <PageLink className={DUE_TONE[state]} href={`/runs/${run.id}`}>
            {state}
          </PageLink>
        ) : (
          state
        )}
      </td>
    </>
  );
}

const TREND_WIDTH = 110;
const TREND_HEIGHT = 40;
/** The drift above which a line is drawn at the upper edge. */
const HIGHEST_DRIFT = 0.5;

/** Live quality and input drift of the last days, as small lines with their newest value. */
function TrendCells({ live, drift }: Pick<Thread, "live" | "drift">) {
  const newest = live?.days.at(-1);
  const newestDrift = drift.at(-1);
  return (
    <>
      <td>
        {live && newest && (
          <>
            <TrendCell
              label={`Live ${live.metric} over ${live.days.length} days, last ${formatNumber(newest.value)}`}
              points={live.days}
              width={TREND_WIDTH}
              height={TREND_HEIGHT}
            />
            <span className="text-caption text-faded">
              {live.metric} <span className="figure">{formatNumber(newest.value)}</span>
            </span>
          </>
        )}
      </td>
      <td>
        {newestDrift && (
          <>
            <TrendCell
              label={`Largest drift over ${drift.length} runs, last ${formatNumber(newestDrift.value)}`}
              points={drift}
              domain={[0, HIGHEST_DRIFT]}
              bounds={[SOME_DRIFT, MUCH_DRIFT]}
              width={TREND_WIDTH}
              height={TREND_HEIGHT}
            />
            <span className="text-caption text-faded">
              largest <span className="figure">{formatNumber(newestDrift.value)}</span>
            </span>
          </>
        )}
      </td>
    </>
  );
}

/** Whether what was due has been delivered, schedule by schedule. */
export function DueTable({
  lines,
  all,
  names,
  time,
  whole,
}: {
  readonly lines: readonly ScheduleLine[];
  /** How many schedules there are. */
  readonly all: number;
  readonly names: ReadonlyMap<number, string>;
  readonly time: Date;
  readonly whole: WholePart | undefined;
}) {
  const span = lines[0]?.thread;
  return (
    <section aria-label="Scheduled runs" className="mb-8">
      <div className="flex flex-wrap items-baseline justify-between gap-x-8">
        <h2>Scheduled runs</h2>
        <ThreadLegend />
      </div>
      <Sheet className="mt-1 min-w-[64rem] table-fixed" data-testid="due">
        <thead>
          <tr>
            <th className="w-[10%]">Schedule</th>
            <th className="w-[13%]">Pipeline</th>
            <th className="w-[19%]">Was due</th>
            <th className="w-[7%]">Status</th>
            <th>
              Rows, last 30 days
              {span && <ThreadDates from={span.from} until={span.until} />}
            </th>
            <th className="w-[10%]">Live metric</th>
            <th className="w-[10%]">Input drift</th>
          </tr>
        </thead>
        <tbody>
          {lines.map(({ schedule, due: last, thread }) => (
            <tr key={schedule.id}>
              <td className="font-medium">{schedule.name}</td>
              <td>
                <DeliverLink pipeline={names.get(schedule.pipelineId) ?? ""} />
              </td>
              <DueCells schedule={schedule} due={last} time={time} />
              <td>
                <ScheduleThread
                  title={`${schedule.name} of ${names.get(schedule.pipelineId) ?? ""}`}
                  from={thread.from}
                  until={thread.until}
                  marks={thread.marks}
                />
              </td>
              <TrendCells live={thread.live} drift={thread.drift} />
            </tr>
          ))}
        </tbody>
      </Sheet>
      <ShowAll all={all} part="due" whole={whole} />
    </section>
  );
}
