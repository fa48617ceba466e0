"use client";
import { formatBytes, formatDuration, formatNumber } from "@/core/format/numbers";
import { useEffect, useState } from "react";
import { cancelImport } from "@/server/import-actions";

import type { SeenImport } from "@/server/import-request";
import { tellProblems } from "../basic/tell-problems";

const TICK_MILLISECONDS = 500;

/** How far a look or a load is: rows, rate and time left, with a way to stop it. */
export function ImportProgress({ row }: { readonly row: SeenImport }) {
  const [now, setNow] = useState<number>();
  useEffect(() => {
    setNow(Date.now());
    const timer = setInterval(() => setNow(Date.now()), TICK_MILLISECONDS);
    return () => clearInterval(timer);
  }, []);
  const seconds =
    now !== undefined && row.stageStartedAt
      ? Math.max(0.1, (now - new Date(row.stageStartedAt).getTime()) / 1000)
      : undefined;
  const left =
    seconds !== undefined && row.doneBytes > 0
      ? (seconds * (row.bytes - row.doneBytes)) / row.doneBytes
      : undefined;
  const cancel = async (): Promise<void> => {
    const outcome = await cancelImport(row.id);
    if (!outcome.ok) tellProblems(outcome.problems);
  };
  const verb = row.state === "looking" ? "Analysing" : "Loading";
  return (
    <section aria-label="Progress" className="border-y border-rule py-8 text-center">
      <p className="text-section font-medium" role="status">
        {verb} {row.name}
      </p>
      <progress
        aria-label={`${verb} ${row.name}`}
        className="mx-auto mt-3 block w-[420px]"
        max={Math.max(1, row.bytes)}
        value={row.doneBytes}
      />
      <p className="figure mt-2 text-faded">
        {row.stageStartedAt === null ? (
          "waiting for a worker"
        ) : (
          <>
            {formatBytes(row.doneBytes)} of {formatBytes(row.bytes)} · {formatNumber(row.doneRows)} rows
            {seconds !== undefined && row.doneRows > 0 && (
              <> · {formatNumber(Math.round(row.doneRows / seconds))} per second</>
            )}
            {left !== undefined && left > 0.5 && <> · {formatDuration(1000 * left)} left</>}
            {row.rejected > 0 && (
              <span className="text-madder"> · {formatNumber(row.rejected)} do not fit</span>
            )}
          </>
        )}
      </p>
      <button type="button" className="press mt-4" disabled={row.cancelAsked} onClick={() => void cancel()}>
        {row.cancelAsked ? "stopping …" : "Cancel"}
      </button>
      {row.state === "loading" && (
        <p className="mt-2 text-caption text-faded">
          The table changes only once all rows are loaded. Cancelling leaves it unchanged.
        </p>
      )}
    </section>
  );
}
