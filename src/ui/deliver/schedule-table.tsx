import { formatNumber } from "@/core/format/numbers";
import cronstrue from "cronstrue";
import { deliveryNamed } from "@/core/pipeline/deliveries";
import type { PipelineFile } from "@/core/pipeline/schema";
import { isReadable } from "@/core/schedule/cron";
import { nextSlots } from "@/core/schedule/slots";
import type { ScheduleRow } from "@/store/pipelines";
import { PauseButton, RunScheduleButton, SkipButton } from "../basic/actions";
import { moment } from "../basic/format";
import { RemoveListed } from "./remove-listed";
import type { ScheduleFacts } from "./schedule-draft";
import { ScheduleForm } from "./schedule-form";
import { PageLink } from "../basic/page-link";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

interface Props {
  readonly facts: ScheduleFacts;
  readonly schedules: readonly ScheduleRow[];
  /** The newest file; undefined while it cannot be read. */
  readonly file: PipelineFile | undefined;
  readonly canScore: boolean;
}

/** What starts the runs of a schedule: a clock, another pipeline, or rows that arrive. */
function StartOf({ schedule }: { readonly schedule: ScheduleRow }) {
  if (schedule.cron !== null)
    return (
      <>
        {cronstrue.toString(schedule.cron, { use24HourTimeFormat: true })}
        <br />
        <span className="text-faded">
          <code>{schedule.cron}</code> in {schedule.zone}
        </span>
      </>
    );
  if (schedule.after !== null)
    return (
      <>
        when{" "}
        <PageLink href={`/pipelines/${encodeURIComponent(schedule.after)}/deliver`}>
          {schedule.after}
        </PageLink>{" "}
        delivers{schedule.afterBackfill && ", including backfills"}
      </>
    );
  return (
    <>
      when rows arrive in {schedule.arrival}
      {schedule.quietFor > 0 && (
        <span className="block text-caption text-faded">{schedule.quietFor} min after the last change</span>
      )}
    </>
  );
}

/** What runs when, with the next times; the name of each opens its form. */
export function ScheduleTable({ facts, schedules, file, canScore }: Props) {
  const time = new Date(facts.now);
  return (
    <Sheet className="mt-1">
      <thead>
        <tr>
          <th>Schedule</th>
          <th>Does</th>
          <th>When</th>
          <th>Missed times</th>
          <th>Next (UTC)</th>
          <HiddenHead name="Actions" />
        </tr>
      </thead>
      <tbody>
        {schedules.map((schedule) => {
          const place = file?.schedules.findIndex((one) => one.name === schedule.name) ?? -1;
          return (
            <tr key={schedule.id}>
              <td>
                {place < 0 ? (
                  schedule.name
                ) : (
                  <ScheduleForm facts={facts} schedule={file!.schedules[place]} place={place}>
                    <button
                      type="button"
                      className="text-left font-medium underline decoration-rule underline-offset-3"
                      title="Edit"
                    >
                      {schedule.name}
                    </button>
                  </ScheduleForm>
                )}
              </td>
              <td>{doesWords(schedule, file)}</td>
              <td>
                <StartOf schedule={schedule} />
              </td>
              <td>
                {missedWords(schedule)}
                {schedule.wait && (
                  <span className="block text-caption text-faded">
                    waits up to {schedule.wait.until} min for{" "}
                    {schedule.wait.for.map((source) => source.table).join(", ")}
                  </span>
                )}
                {schedule.leftOut > 0 && (
                  <span className="block text-caption text-weld">
                    {formatNumber(schedule.leftOut)} skipped: {schedule.atOnce} in parallel
                  </span>
                )}
              </td>
              <td>
                {schedule.paused && <span className="text-weld">paused</span>}
                {!schedule.paused && schedule.cron === null && <span className="text-faded">on event</span>}
                {!schedule.paused && schedule.cron !== null && (
                  <NextTimes
                    cron={schedule.cron}
                    zone={schedule.zone}
                    after={new Date(Math.max(time.getTime(), schedule.doneUntil.getTime()))}
                  />
                )}
              </td>
              <td className="whitespace-nowrap text-right">
                <RunScheduleButton
                  pipeline={facts.pipeline}
                  run={schedule.run}
                  delivery={schedule.delivery}
                  disabled={schedule.run === "score" && !canScore && !isOfFeatures(file, schedule.delivery)}
                />{" "}
                {schedule.cron !== null && !schedule.paused && <SkipButton schedule={schedule.id} />}{" "}
                <PauseButton schedule={schedule.id} paused={schedule.paused} />{" "}
                {place >= 0 && (
                  <RemoveListed
                    pipeline={facts.pipeline}
                    part="schedules"
                    place={place}
                    name={schedule.name}
                  />
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </Sheet>
  );
}

/** Whether a schedule serves a delivery of features, which needs no version in service. */
const isOfFeatures = (file: PipelineFile | undefined, delivery: string | null): boolean =>
  file !== undefined && deliveryNamed(file.delivery, delivery ?? undefined)?.of === "features";

/** What happens to logical times that were missed. */
function missedWords({ cron, missed }: ScheduleRow): string {
  if (cron === null) return "–";
  return missed === "skip" ? "skipped" : "one catch-up run";
}

function doesWords(
  { run, delivery }: Pick<ScheduleRow, "run" | "delivery">,
  file: PipelineFile | undefined,
): string {
  if (run === "train") return "train";
  const work = isOfFeatures(file, delivery) ? "prepare features" : "score";
  return delivery === null ? work : `${work} for ${delivery}`;
}

/** The next five times of a schedule, or that nobody can read it. */
function NextTimes({
  cron,
  zone,
  after,
}: {
  readonly cron: string;
  readonly zone: string;
  readonly after: Date;
}) {
  if (!isReadable(cron, zone)) return <span className="text-madder">invalid: edit the schedule</span>;
  return nextSlots(cron, zone, after, 5).map((slot) => (
    <span key={slot.toISOString()} className="figure block whitespace-nowrap">
      {moment(slot)}
    </span>
  ));
}
