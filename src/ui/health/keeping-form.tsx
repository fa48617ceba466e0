"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { changeKeeping } from "@/server/operating-actions";
import type { Keeping } from "@/store/settings";
import { useSave } from "../basic/use-save";

const [MOST_DAYS, MOST_HOURS] = [3650, 8760];

const keepingValues = z.object({
  recordDays: z.int().min(1, "At least one day.").max(MOST_DAYS, "At most ten years."),
  stageHours: z.int().min(1, "At least one hour.").max(MOST_HOURS, "At most a year."),
});

type KeepingValues = z.infer<typeof keepingValues>;

/** How long what runs leave behind is kept. */
export function KeepingForm({ keeping }: { readonly keeping: Keeping }) {
  const { register, handleSubmit, reset, formState } = useForm<KeepingValues>({
    resolver: zodResolver(keepingValues),
    defaultValues: { recordDays: keeping.recordDays, stageHours: keeping.stageHours },
    mode: "onChange",
  });
  const [busy, save] = useSave((values: KeepingValues) => changeKeeping({ ...values }), {
    done: "Retention saved.",
  });
  const submit = async (values: KeepingValues): Promise<void> => {
    if (await save(values)) reset(values);
  };
  const problem = formState.errors.recordDays ?? formState.errors.stageHours;
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => void handleSubmit(submit)(event)}
    >
      <label>
        Keep statements and logs of runs for{" "}
        <input type="number" className="field w-20" {...register("recordDays", { valueAsNumber: true })} />{" "}
        days,
      </label>
      <label>
        and staged rows of failed runs for{" "}
        <input type="number" className="field w-20" {...register("stageHours", { valueAsNumber: true })} />{" "}
        hours
      </label>
      {formState.isDirty && (
        <button type="submit" className="press" disabled={busy || problem !== undefined} aria-busy={busy}>
          Save
        </button>
      )}
      <span role="status" className="text-caption text-madder">
        {problem && (problem.message ?? "Enter a whole number.")}
      </span>
    </form>
  );
}
