"use client";
import { useFormContext } from "react-hook-form";
import type { Schedule } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import { CronField } from "./cron-field";
import { startsWith, WHEN, whenOf, type ScheduleFacts, type When } from "./schedule-draft";
import { Select } from "../select/select";

/** What starts a run: times, another pipeline, or rows that arrive. */
export function ScheduleStart({ facts }: { readonly facts: ScheduleFacts }) {
  const { register, watch, setValue } = useFormContext<Schedule>();
  const draft = watch();
  const when = whenOf(draft);
  const choose = (wanted: When): void => {
    const { cron, after, arrival } = startsWith(wanted, facts);
    setValue("cron", cron);
    setValue("after", after);
    setValue("arrival", arrival);
  };
  const choices = (Object.keys(WHEN) as When[]).filter(
    (choice) => choice !== "after" || facts.others.length > 0 || when === "after",
  );
  return (
    <>
      <FormLine label="when" htmlFor="schedule-when">
        <Select
          id="schedule-when"
          label="when"
          value={when}
          options={choices.map((choice) => ({ value: choice, label: WHEN[choice] }))}
          onChange={choose}
        />
        {when === "after" && (
          <SourceSelect
            word="after"
            label="Other pipeline"
            value={draft.after}
            choices={facts.others}
            onChange={(name) => setValue("after", name)}
          />
        )}
        {when === "arrival" && (
          <SourceSelect
            word="in"
            label="Table of arrivals"
            value={draft.arrival}
            choices={facts.sources.map(({ table }) => table)}
            onChange={(table) => setValue("arrival", table)}
          />
        )}
      </FormLine>
      {when === "after" && (
        <FormLine label="backfills" htmlFor="schedule-after-backfill">
          <label>
            <input
              id="schedule-after-backfill"
              type="checkbox"
              className="mr-2"
              {...register("after_backfill")}
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
            {...register("quiet_for", { valueAsNumber: true })}
          />{" "}
          minutes
        </FormLine>
      )}
      {when === "cron" && (
        <CronField
          cron={draft.cron ?? ""}
          zone={draft.zone}
          now={facts.now}
          onCron={(cron) => setValue("cron", cron)}
          onZone={(zone) => setValue("zone", zone)}
        />
      )}
    </>
  );
}

function SourceSelect({
  word,
  label,
  value,
  choices,
  onChange,
}: {
  readonly word: string;
  readonly label: string;
  readonly value: string | undefined;
  readonly choices: readonly string[];
  readonly onChange: (value: string) => void;
}) {
  return (
    <label className="ml-3">
      {word} <Select label={label} value={value ?? ""} options={choices} onChange={onChange} />
    </label>
  );
}
