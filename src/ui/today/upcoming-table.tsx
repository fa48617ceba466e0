import type { ScheduleRow } from "@/store/pipelines";
import { ago, moment } from "../basic/format";
import { DeliverLink } from "./deliver-link";
import { eventWords } from "./event-words";
import { firstFew, ShowAll, type WholePart } from "./first-few";
import { Sheet } from "../basic/sheet";

/** A schedule with its next time; none where it runs on an event. */
export interface Upcoming {
  readonly schedule: ScheduleRow;
  readonly at: Date | undefined;
}

/** What schedules do next. */
export function UpcomingTable({
  upcoming,
  names,
  time,
  whole,
}: {
  readonly upcoming: readonly Upcoming[];
  readonly names: ReadonlyMap<number, string>;
  readonly time: Date;
  readonly whole: WholePart | undefined;
}) {
  return (
    <section aria-label="Upcoming">
      <h2>Upcoming</h2>
      {upcoming.length === 0 ? (
        <p className="mt-1 text-faded">No active schedules.</p>
      ) : (
        <Sheet className="mt-1">
          <thead>
            <tr>
              <th>When</th>
              <th>Schedule</th>
              <th>Pipeline</th>
            </tr>
          </thead>
          <tbody>
            {firstFew(upcoming, "next", whole).map(({ schedule, at }) => (
              <tr key={schedule.id}>
                <td className={at ? "whitespace-nowrap" : ""}>
                  {at ? (
                    <>
                      {ago(at, time)}
                      <br />
                      <span className="text-faded">{moment(at)}</span>
                    </>
                  ) : (
                    eventWords(schedule)
                  )}
                </td>
                <td className="font-medium">
                  {schedule.name}
                  <br />
                  <span className="font-normal text-faded">{schedule.run}</span>
                </td>
                <td className="wrap-anywhere">
                  <DeliverLink pipeline={names.get(schedule.pipelineId) ?? ""} />
                </td>
              </tr>
            ))}
          </tbody>
        </Sheet>
      )}
      <ShowAll all={upcoming.length} part="next" whole={whole} />
    </section>
  );
}
