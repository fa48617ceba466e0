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
import { ScheduleForm, type ScheduleFacts } from "./schedule-form";
import { PageLink } from "../basic/page-link";

interface Props {
  readonly facts: ScheduleFacts;
  readonly schedules: readonly ScheduleRow[];
  /** The newest file; undefined while it cannot be read. */
  readonly file: PipelineFile | undefined;
  readonly canScore: boolean;
}

/** What runs when, with the next times; the name of each opens its form. */
export function ScheduleTable({ facts, schedules, file, canScore }: Props) {
  const time = new Date(facts.now);
  return (
    <table className="sheet mt-1">
      <thead>
        <tr>
          <th>Schedule</th>
          <th>Does</th>
          <th>When</th>
          <th>Missed times</th>
          <th>Next (UTC)</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {schedules.map((each) => {
          const place = file?.schedules.findIndex((one) => one.name === each.name) ?? -1;
          return (
            <tr key={each.id}>
              <td>
                {place < 0 ? (
                  each.name
                ) : (
                  <ScheduleForm facts={facts} schedule={file!.schedules[place]} place={place}>
                    <button
                      type="button"
                      className="text-left font-medium underline decoration-rule underline-offset-3"
                      title="Change it"
                    >
                      {each.name}
                    </button>
                  </ScheduleForm>
                )}
              </td>
              <td>{doesWords(each, file)}</td>
              <td>
                {each.cron !== null ? (
                  <>
                    {cronstrue.toString(each.cron, { use24HourTimeFormat: true })}
                    <br />
                    <span className="text-faded">
                      <code>{each.cron}</code> in {each.zone}
                    </span>
                  </>
                ) : each.after !== null ? (
                  <>
                    when{" "}
                    <PageLink href={`/pipelines/${encodeURIComponent(each.after)}/deliver`}>
                      {each.after}
                    </PageLink>{" "}
                    has delivered{each.afterBackfill && ", also in a backfill"}
                  </>
                ) : (
                  <>
                    when rows arrive in {each.arrival}
                    {each.quietFor > 0 && (
                      <span className="block text-xs text-faded">
                        {each.quietFor} min after the last change
                      </span>
                    )}
                  </>
                )}
              </td>
              <td>
                {each.cron === null ? "–" : each.missed === "skip" ? "skipped" : "caught up once"}
                {each.wait && (
                  <span className="block text-xs text-faded">
                    waits up to {each.wait.until} min for{" "}
                    {each.wait.for.map((source) => source.table).join(", ")}
                  </span>
                )}
                {each.leftOut > 0 && (
                  <span className="block text-xs text-weld">
                    {formatNumber(each.leftOut)} left out: {each.atOnce} at once
                  </span>
                )}
              </td>
              <td>
                {each.paused ? (
                  <span className="text-weld">paused</span>
                ) : each.cron === null ? (
                  <span className="text-faded">it depends</span>
                ) : (
                  <NextTimes
                    cron={each.cron}
                    zone={each.zone}
                    after={new Date(Math.max(time.getTime(), each.doneUntil.getTime()))}
                  />
                )}
              </td>
              <td className="whitespace-nowrap text-right">
                <RunScheduleButton
                  pipeline={facts.pipeline}
                  run={each.run}
                  delivery={each.delivery}
                  disabled={each.run === "score" && !canScore && !isOfFeatures(file, each.delivery)}
                />{" "}
                {each.cron !== null && !each.paused && <SkipButton schedule={each.id} />}{" "}
                <PauseButton schedule={each.id} paused={each.paused} />{" "}
                {place >= 0 && (
                  <RemoveListed pipeline={facts.pipeline} part="schedules" place={place} name={each.name} />
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Whether a schedule serves a delivery of features, which needs no version in service. */
const isOfFeatures = (file: PipelineFile | undefined, delivery: string | null): boolean =>
  file !== undefined && deliveryNamed(file.delivery, delivery ?? undefined)?.of === "features";

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
  if (!isReadable(cron, zone))
    return <span className="text-madder">cannot be read: open the schedule to correct it</span>;
  return nextSlots(cron, zone, after, 5).map((slot) => (
    <span key={slot.toISOString()} className="figure block whitespace-nowrap">
      {moment(slot)}
    </span>
  ));
}
