import type { ScheduleRow } from "@/store/pipelines";

/** What a schedule without times waits for. */
export const eventWords = ({ arrival, after }: ScheduleRow): string =>
  arrival === null ? `when ${after ?? "another pipeline"} delivers` : `when rows arrive in ${arrival}`;
