"use client";
import { useState } from "react";
import { changeKeeping } from "@/server/operating-actions";
import type { Keeping } from "@/store/settings";
import { ActButton } from "../basic/act";

/** How long what runs leave behind is kept. */
export function KeepingForm({ keeping }: { readonly keeping: Keeping }) {
  const [days, setDays] = useState(keeping.recordDays);
  const [hours, setHours] = useState(keeping.stageHours);
  const changed = days !== keeping.recordDays || hours !== keeping.stageHours;
  return (
    <span className="flex flex-wrap items-center gap-2">
      <label>
        Keep statements and logs of runs for{" "}
        <input
          type="number"
          min={1}
          max={3650}
          className="field w-20"
          value={days}
          onChange={(event) => setDays(Number(event.target.value))}
        />{" "}
        days,
      </label>
      <label>
        and staged rows of failed runs for{" "}
        <input
          type="number"
          min={1}
          max={8760}
          className="field w-20"
          value={hours}
          onChange={(event) => setHours(Number(event.target.value))}
        />{" "}
        hours
      </label>
      {changed && (
        <ActButton act={() => changeKeeping({ recordDays: days, stageHours: hours })} done="Retention saved.">
          Save
        </ActButton>
      )}
    </span>
  );
}
