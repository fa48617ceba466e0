import type { RunCause } from "@/store/schema/runs";

/** What started a run, as a person reads it. */
export const CAUSE_WORDS: Readonly<Record<RunCause, string>> = {
  hand: "manual",
  schedule: "schedule",
  "command line": "command line",
  again: "rerun",
  backfill: "backfill",
};
