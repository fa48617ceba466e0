import { scheduleSchema, type Schedule } from "@/core/pipeline/operating-schema";
import { freeTitle } from "../basic/free-title";

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

/** What starts a run: a time, another pipeline, or rows. */
export type When = "cron" | "after" | "arrival";

export const WHEN: Readonly<Record<When, string>> = {
  cron: "at set times",
  arrival: "when rows arrive in a table",
  after: "after another pipeline delivers",
};
/** What starts the runs of a schedule. */
export function whenOf(schedule: Schedule): When {
  if (schedule.after !== undefined) return "after";
  return schedule.arrival === undefined ? "cron" : "arrival";
}

const FIRST_CRON = "30 22 * * *";

/** The parts of a schedule that say what starts it, for another start. */
export const startsWith = (
  when: When,
  facts: ScheduleFacts,
): Pick<Schedule, "cron" | "after" | "arrival"> => ({
  cron: when === "cron" ? FIRST_CRON : undefined,
  after: when === "after" ? (facts.others[0] ?? "") : undefined,
  arrival: when === "arrival" ? (facts.sources[0]?.table ?? "") : undefined,
});

/** A new schedule with a name that is free. */
export const newSchedule = (facts: ScheduleFacts): Schedule => ({
  ...scheduleSchema.parse({
    name: "-",
    run: facts.deliveries.length > 0 ? "score" : "train",
    cron: FIRST_CRON,
  }),
  name: freeTitle("nightly", facts.taken),
});
