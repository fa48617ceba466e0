"use client";
import { useFormContext } from "react-hook-form";
import type { Schedule } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import { whenOf } from "./schedule-draft";
import { Select } from "../select/select";

/** What happens to missed times, how many runs may be there at a time, and when one is late. */
export function ScheduleLimits() {
  const { register, watch, setValue } = useFormContext<Schedule>();
  const when = whenOf(watch());
  return (
    <>
      {when === "cron" && (
        <FormLine label="missed times" htmlFor="schedule-missed" says="If the server was down at the time.">
          <Select
            id="schedule-missed"
            label="missed times"
            value={watch("missed")}
            options={[
              { value: "catch_up_once", label: "are caught up by one run" },
              { value: "skip", label: "are skipped" },
            ]}
            onChange={(missed) => setValue("missed", missed)}
          />
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
            {...register("at_once", { valueAsNumber: true })}
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
          {...register("late_after", { valueAsNumber: true })}
        />{" "}
        minutes
      </FormLine>
    </>
  );
}
