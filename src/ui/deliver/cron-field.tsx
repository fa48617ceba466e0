"use client";
import cronstrue from "cronstrue";
import { cronMistake, isReadable } from "@/core/schedule/cron";
import { nextSlots } from "@/core/schedule/slots";
import { FormLine } from "../basic/form-dialog";
import { moment } from "../basic/format";

interface Props {
  readonly cron: string;
  readonly zone: string;
  readonly now: string;
  readonly onCron: (cron: string) => void;
  readonly onZone: (zone: string) => void;
}

/** What a cron expression means, and the next times it gives; undefined when it is none. */
function readCron(
  cron: string,
  zone: string,
  now: string,
): { readonly words: string; readonly next: readonly Date[] } | undefined {
  if (!isReadable(cron, zone)) return undefined;
  try {
    return {
      words: cronstrue.toString(cron, { use24HourTimeFormat: true }),
      next: nextSlots(cron, zone, new Date(now), 5),
    };
  } catch {
    return undefined;
  }
}

/** Times as a cron expression in a zone, with what they mean while they are typed. */
export function CronField({ cron, zone, now, onCron, onZone }: Props) {
  const read = readCron(cron, zone, now);
  return (
    <FormLine
      label="times"
      htmlFor="schedule-cron"
      says="Minute, hour, day of month, month, day of week, in local time of the zone, including daylight saving."
    >
      <input
        id="schedule-cron"
        className="field figure w-44"
        value={cron}
        onChange={(event) => onCron(event.target.value)}
      />{" "}
      <label className="ml-2">
        in{" "}
        <input
          aria-label="Time zone"
          className="field w-56"
          list="schedule-zones"
          value={zone}
          onChange={(event) => onZone(event.target.value)}
        />
      </label>
      <datalist id="schedule-zones">
        {Intl.supportedValuesOf("timeZone").map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
      <p className="mt-1 text-caption" role="status" data-testid="cron-words">
        {read ? (
          <>
            {read.words}.{" "}
            <span className="text-faded">
              Next, in UTC: <span className="figure">{read.next.map(moment).join(", ")}</span>
            </span>
          </>
        ) : (
          <span className="text-madder">
            Not a valid cron expression yet. {cronMistake(cron) ?? `"${zone}" is not a time zone.`} Enter five
            fields, such as 30 22 * * *, and a time zone such as UTC or Europe/Lisbon.
          </span>
        )}
      </p>
    </FormLine>
  );
}
