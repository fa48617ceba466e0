"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import type { ReactNode } from "react";
import { FormProvider, useForm } from "react-hook-form";
import { toldSchedule } from "@/core/pipeline/edit/told";
import { scheduleSchema, type Schedule } from "@/core/pipeline/operating-schema";
import { saveListed } from "@/server/file-actions";
import { DialogForm, FormDialog, FormLine } from "../basic/form-dialog";
import { newSchedule, type ScheduleFacts } from "./schedule-draft";
import { ScheduleLimits } from "./schedule-limits";
import { ScheduleStart } from "./schedule-start";
import { ScheduleWork } from "./schedule-work";
import { WaitFields } from "./wait-fields";

interface Props {
  readonly facts: ScheduleFacts;
  readonly schedule: Schedule | undefined;
  /** Place in the file; null for a new one. */
  readonly place: number | null;
}

/** Makes or changes a schedule: what runs, when, and what happens when it cannot. */
export function ScheduleForm({ children, ...props }: Props & { readonly children: ReactNode }) {
  return (
    <FormDialog trigger={children}>
      <ScheduleFields {...props} />
    </FormDialog>
  );
}

function ScheduleFields({ facts, schedule, place }: Props) {
  const form = useForm<Schedule>({
    resolver: zodResolver(scheduleSchema) as never,
    defaultValues: schedule ?? newSchedule(facts),
    mode: "onChange",
  });
  const [name, wait] = form.watch(["name", "wait"]);
  return (
    <FormProvider {...form}>
      <DialogForm
        title={place === null ? "New schedule" : `Schedule “${schedule?.name ?? ""}”`}
        incomplete={name.trim() === ""}
        save={() =>
          saveListed({
            pipeline: facts.pipeline,
            part: "schedules",
            place,
            entry: toldSchedule({ ...form.getValues(), name: form.getValues("name").trim() }),
          })
        }
      >
        <FormLine label="name" htmlFor="schedule-name">
          <input id="schedule-name" className="field w-80" {...form.register("name")} />
        </FormLine>
        <ScheduleWork facts={facts} />
        <ScheduleStart facts={facts} />
        <ScheduleLimits />
        <WaitFields wait={wait} sources={facts.sources} onChange={(next) => form.setValue("wait", next)} />
      </DialogForm>
    </FormProvider>
  );
}
