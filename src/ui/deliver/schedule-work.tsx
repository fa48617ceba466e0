"use client";
import { useFormContext } from "react-hook-form";
import type { Schedule } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import type { ScheduleFacts } from "./schedule-draft";

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
      <select
        id="schedule-run"
        className="field"
        value={run}
        onChange={(event) => choose(event.target.value as Schedule["run"])}
      >
        <option value="score">score</option>
        <option value="train">train</option>
      </select>
      {run === "score" && facts.deliveries.length > 1 && (
        <label className="ml-3">
          for{" "}
          <select
            aria-label="Delivery"
            className="field"
            value={delivery ?? facts.deliveries[0]}
            onChange={(event) => setValue("delivery", event.target.value)}
          >
            {facts.deliveries.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
      )}
    </FormLine>
  );
}
