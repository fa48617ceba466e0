import type { Due, DueState } from "@/runs/due";
import type { ScheduleRow } from "@/store/pipelines";
import { ago, moment } from "../basic/format";
import { PageLink } from "../basic/page-link";
import { DeliverLink } from "./deliver-link";
import { eventWords } from "./event-words";
import { firstFew, ShowAll, type WholePart } from "./first-few";
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

/** What needs attention stands first. */
const STATE_ORDER: readonly (DueState | undefined)[] = [
  "failed",
  "waiting",
  "running",
  "done",
  "nothing due",
  undefined,
];
const rankOf = ({ due }: ScheduleDue): number => STATE_ORDER.indexOf(due?.state);

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
        {schedule.cron === null && <span className="block text-xs text-faded">{eventWords(schedule)}</span>}
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

/** Whether what was due has been delivered, schedule by schedule. */
export function DueTable({
  due,
  names,
  time,
  whole,
}: {
  readonly due: readonly ScheduleDue[];
  readonly names: ReadonlyMap<number, string>;
  readonly time: Date;
  readonly whole: WholePart | undefined;
}) {
  const ordered = due.toSorted((left, right) => rankOf(left) - rankOf(right));
  return (
    <section aria-label="Due" className="mb-8">
      <h2>Scheduled runs</h2>
      <Sheet className="mt-1" data-testid="due">
        <thead>
          <tr>
            <th>Schedule</th>
            <th>Pipeline</th>
            <th>Was due</th>
            <th>Status</th>
          </tr>
        </thead>
        <tbody>
          {firstFew(ordered, "due", whole).map(({ schedule, due: last }) => (
            <tr key={schedule.id}>
              <td className="font-medium">{schedule.name}</td>
              <td>
                <DeliverLink pipeline={names.get(schedule.pipelineId) ?? ""} />
              </td>
              <DueCells schedule={schedule} due={last} time={time} />
            </tr>
          ))}
        </tbody>
      </Sheet>
      <ShowAll all={due.length} part="due" whole={whole} />
    </section>
  );
}
