"use client";
import { useFormContext } from "react-hook-form";
import type { Schedule } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import type { ScheduleFacts } from "./schedule-draft";
import { Select } from "../select/select";

/** What a schedule does: trains, or scores for a delivery. */
export function ScheduleWork({ facts }: { readonly facts: ScheduleFacts }) {
  const { watch, setValue } = useFormContext<Schedule>();
  const [run, delivery] = watch(["run", "delivery"]);
  const choose = (wanted: Schedule["run"]): void => {
    setValue("run", wanted);
    if (wanted === "train") setValue("delivery", undefined);
  };
  return (
    <FormLine label="does" htmlFor="schedule-run">
      <Select id="schedule-run" label="does" value={run} options={["score", "train"]} onChange={choose} />
      {run === "score" && facts.deliveries.length > 1 && (
        <label className="ml-3">
          for{" "}
          <Select
            label="Delivery"
            value={delivery ?? facts.deliveries[0] ?? ""}
            options={facts.deliveries}
            onChange={(name) => setValue("delivery", name)}
          />
        </label>
      )}
    </FormLine>
  );
}
