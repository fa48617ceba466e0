"use client";
import { DemoClock, type ClockState } from "./demo-clock";
import { useRunEvents } from "./use-run-events";
import { PageLink } from "../basic/page-link";

export interface RunningNow {
  readonly runs: readonly { readonly id: string; readonly label: string }[];
  readonly waiting: number;
  /** Whether the database that knows could not be asked. */
  readonly away: boolean;
}

function idleWords({ away, waiting }: RunningNow): string {
  if (away) return "database unreachable";
  return waiting > 0 ? `${waiting} waiting` : "nothing running";
}

/** What is running now, quietly; and the demo's clock, where there is one. */
export function RunningStrip({
  running,
  clock,
}: {
  readonly running: RunningNow;
  readonly clock: ClockState | null;
}) {
  useRunEvents();
  const [first] = running.runs;
  return (
    <div className="flex items-center gap-3 text-caption text-faded" aria-live="polite">
      {first ? (
        <PageLink href={`/runs/${first.id}`} className="text-woad">
          {first.label}
          {running.runs.length > 1 ? ` and ${running.runs.length - 1} more` : ""}
        </PageLink>
      ) : (
        <span>{idleWords(running)}</span>
      )}
      {clock && <DemoClock clock={clock} />}
    </div>
  );
}
