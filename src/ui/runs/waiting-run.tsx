"use client";
import { describeWait, type Wait } from "@/core/schedule/describe-wait";
import { PageLink } from "../basic/page-link";
import { useRefreshEvery } from "../basic/page-refresh";

/** What holds it up are other runs, whose progress is not this run's news. */
const REFRESH_MILLISECONDS = 5000;

/** What a queued run waits for, and about how long. */
export function WaitingRun({ wait }: { readonly wait: Wait }) {
  useRefreshEvery(REFRESH_MILLISECONDS);
  return (
    <p className="mb-4">
      <span className="text-weld">Waiting for a worker.</span> {describeWait(wait)}
      {wait.doing.length > 0 && <span className="text-faded"> Running now:</span>}
      {wait.doing.map(({ id, kind, pipeline }) => (
        <span key={id}>
          {" "}
          <PageLink href={`/runs/${id}`}>
            {kind === "train" ? "Training" : "Scoring"} {pipeline}
          </PageLink>
        </span>
      ))}
    </p>
  );
}
