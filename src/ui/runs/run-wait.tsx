import type { RunRow } from "@/store/runs";
import type { ComponentProps } from "react";
import { moment } from "../basic/format";
import { WaitingRun } from "./waiting-run";

/** Why a run waits: for its sources, for something that can pass, for its turn, or for a worker. */
export function RunWait({
  run,
  wait,
  isWorkerAlive,
}: {
  readonly run: RunRow;
  /** What is before it in the queue. */
  readonly wait: ComponentProps<typeof WaitingRun>["wait"] | undefined;
  readonly isWorkerAlive: boolean;
}) {
  const isQueued = run.state === "queued";
  return (
    <>
      {isQueued && run.waitsFor !== null && (
        <p className="mb-4">
          <span className="text-weld">Waiting.</span> <WaitReason run={run} />
        </p>
      )}
      {wait && isWorkerAlive && <WaitingRun wait={wait} />}
      {isQueued && !isWorkerAlive && (
        <p role="alert" className="mb-4 text-madder">
          No worker is running, so this run waits. ./ravlen start starts workers and restarts them when they
          fail.
        </p>
      )}
    </>
  );
}

function WaitReason({ run: { options, waitsFor, notBefore } }: { readonly run: RunRow }) {
  if (options.wait)
    return (
      <>
        Until {moment(options.wait.until)} for{" "}
        {options.wait.for
          .map(
            ({ table, column, within }) =>
              `${table} (newest ${column} no older than ${within} min before the run’s time)`,
          )
          .join(", ")}
        .
      </>
    );
  return (
    <>
      {waitsFor}
      {notBefore && (
        <span className="text-faded"> · next at {notBefore.toISOString().slice(11, 19)} UTC</span>
      )}
    </>
  );
}
