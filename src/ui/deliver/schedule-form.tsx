"use client";
import { useState, type ReactNode } from "react";
import { toldSchedule } from "@/core/pipeline/edit/told";
import { scheduleSchema, type Schedule } from "@/core/pipeline/operating-schema";
import { saveListed } from "@/server/file-actions";
import { FormDialog, FormLine } from "../basic/form-dialog";
import { freeTitle } from "../basic/free-title";
import { CronField } from "./cron-field";
import { WaitFields } from "./wait-fields";

export interface ScheduleFacts {
  /** Names of the schedules that there are. */
  readonly taken: readonly string[];
  readonly pipeline: string;
  readonly deliveries: readonly string[];
  /** Other pipelines, after which this one can run. */
  readonly others: readonly string[];
  /** Tables that the steps read, with their columns of times. */
  readonly sources: readonly { readonly table: string; readonly times: readonly string[] }[];
  /** The present time of the application's clock. */
  readonly now: string;
}

interface Props {
  readonly facts: ScheduleFacts;
  readonly schedule: Schedule | undefined;
  /** Place in the file; null for a new one. */
  readonly place: number | null;
  readonly children: ReactNode;
}

type When = "cron" | "after" | "arrival";

const WHEN: Readonly<Record<When, string>> = {
  cron: "at set times",
  arrival: "when rows arrive in a table",
  after: "after another pipeline delivers",
};
const whenOf = (schedule: Schedule): When =>
  schedule.after !== undefined ? "after" : schedule.arrival !== undefined ? "arrival" : "cron";

const fresh = (facts: ScheduleFacts): Schedule => ({
  ...scheduleSchema.parse({
    name: "-",
    run: facts.deliveries.length > 0 ? "score" : "train",
    cron: "30 22 * * *",
  }),
  name: freeTitle("nightly", facts.taken),
});

/** Makes or changes a schedule: what runs, when, and what happens when it cannot. */
export function ScheduleForm({ facts, schedule, place, children }: Props) {
  const [draft, setDraft] = useState<Schedule>(() => schedule ?? fresh(facts));
  const change = (part: { readonly [Name in keyof Schedule]?: Schedule[Name] | undefined }): void =>
    setDraft((before) => ({ ...before, ...part }) as Schedule);
  const when = whenOf(draft);
  const begin = (wanted: When): void =>
    change({
      cron: wanted === "cron" ? "30 22 * * *" : undefined,
      after: wanted === "after" ? (facts.others[0] ?? "") : undefined,
      arrival: wanted === "arrival" ? (facts.sources[0]?.table ?? "") : undefined,
    });
  const entry = toldSchedule({ ...draft, name: draft.name.trim() });
  return (
    <FormDialog
      title={place === null ? "New schedule" : `Schedule “${schedule?.name ?? ""}”`}
      trigger={children}
      incomplete={draft.name.trim() === ""}
      onOpen={() => setDraft(schedule ?? fresh(facts))}
      save={() => saveListed({ pipeline: facts.pipeline, part: "schedules", place, entry })}
    >
      <FormLine label="name" htmlFor="schedule-name">
        <input
          id="schedule-name"
          className="field w-80"
          value={draft.name}
          onChange={(event) => change({ name: event.target.value })}
        />
      </FormLine>
      <FormLine label="does" htmlFor="schedule-run">
        <select
          id="schedule-run"
          className="field"
          value={draft.run}
          onChange={(event) =>
            change({
              run: event.target.value as Schedule["run"],
              ...(event.target.value === "train" ? { delivery: undefined } : {}),
            })
          }
        >
          <option value="score">score</option>
          <option value="train">train</option>
        </select>
        {draft.run === "score" && facts.deliveries.length > 1 && (
          <label className="ml-3">
            for{" "}
            <select
              aria-label="Delivery"
              className="field"
              value={draft.delivery ?? facts.deliveries[0]}
              onChange={(event) => change({ delivery: event.target.value })}
            >
              {facts.deliveries.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </label>
        )}
      </FormLine>
      <FormLine label="when" htmlFor="schedule-when">
        <select
          id="schedule-when"
          className="field"
          value={when}
          onChange={(event) => begin(event.target.value as When)}
        >
          {(Object.keys(WHEN) as When[])
            .filter((each) => each !== "after" || facts.others.length > 0 || when === "after")
            .map((each) => (
              <option key={each} value={each}>
                {WHEN[each]}
              </option>
            ))}
        </select>
        {when === "after" && (
          <label className="ml-3">
            after{" "}
            <select
              aria-label="Other pipeline"
              className="field"
              value={draft.after}
              onChange={(event) => change({ after: event.target.value })}
            >
              {facts.others.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </label>
        )}
        {when === "arrival" && (
          <label className="ml-3">
            in{" "}
            <select
              aria-label="Table of arrivals"
              className="field"
              value={draft.arrival}
              onChange={(event) => change({ arrival: event.target.value })}
            >
              {facts.sources.map(({ table }) => (
                <option key={table}>{table}</option>
              ))}
            </select>
          </label>
        )}
      </FormLine>
      {when === "after" && (
        <FormLine label="backfills" htmlFor="schedule-after-backfill">
          <label>
            <input
              id="schedule-after-backfill"
              type="checkbox"
              className="mr-2"
              checked={draft.after_backfill}
              onChange={(event) => change({ after_backfill: event.target.checked })}
            />
            Also run after backfills of {draft.after}
          </label>
        </FormLine>
      )}
      {when === "arrival" && (
        <FormLine
          label="quiet for"
          htmlFor="schedule-quiet"
          says="Runs after this long without another change, so a load in several parts counts once."
        >
          <input
            id="schedule-quiet"
            type="number"
            min={0}
            max={1440}
            className="field figure w-24"
            value={draft.quiet_for}
            onChange={(event) => change({ quiet_for: Number(event.target.value) })}
          />{" "}
          minutes
        </FormLine>
      )}
      {when === "cron" && (
        <CronField
          cron={draft.cron ?? ""}
          zone={draft.zone}
          now={facts.now}
          onCron={(cron) => change({ cron })}
          onZone={(zone) => change({ zone })}
        />
      )}
      {when === "cron" && (
        <FormLine label="missed times" htmlFor="schedule-missed" says="If the server was down at the time.">
          <select
            id="schedule-missed"
            className="field"
            value={draft.missed}
            onChange={(event) => change({ missed: event.target.value as Schedule["missed"] })}
          >
            <option value="catch_up_once">are caught up by one run</option>
            <option value="skip">are skipped</option>
          </select>
        </FormLine>
      )}
      {when !== "after" && (
        <FormLine
          label="in parallel"
          htmlFor="schedule-at-once"
          says={
            when === "cron"
              ? "If this many of its runs are waiting or running, the time is skipped and counted."
              : "If this many runs are waiting or running, arriving rows start a run later."
          }
        >
          <input
            id="schedule-at-once"
            type="number"
            min={1}
            max={50}
            className="field figure w-24"
            value={draft.at_once}
            onChange={(event) => change({ at_once: Number(event.target.value) })}
          />
        </FormLine>
      )}
      <FormLine label="late after" htmlFor="schedule-late" says="An alert opens then.">
        <input
          id="schedule-late"
          type="number"
          min={1}
          max={10080}
          className="field figure w-24"
          value={draft.late_after}
          onChange={(event) => change({ late_after: Number(event.target.value) })}
        />{" "}
        minutes
      </FormLine>
      <WaitFields wait={draft.wait} sources={facts.sources} onChange={(wait) => change({ wait })} />
    </FormDialog>
  );
}
