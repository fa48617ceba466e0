"use client";
import { formatNumber } from "@/core/format/numbers";
import { METRICS, metricsFor } from "@/core/evaluate/metrics";
import type { Task } from "@/core/learn/task";
import { openBlind } from "@/server/training-actions";
import type { BlindLook } from "@/store/schema";
import { ActButton } from "../basic/act";
import { moment } from "../basic/format";

/** The blind part: closed until somebody opens it, once, on record. */
export function BlindPart({
  model,
  look,
  kind,
}: {
  readonly model: number;
  readonly look: BlindLook | null;
  readonly kind: Task["kind"];
}) {
  return (
    <section aria-label="Blind holdout">
      <h2>The blind holdout</h2>
      {!look && (
        <div className="mt-1 flex items-center gap-4">
          <p className="max-w-2xl text-caption text-faded">
            These rows were scored, but the results are hidden. Open them once all decisions are allowed. This
            can be done once and is recorded.
          </p>
          <ActButton
            act={() => openBlind(model)}
            confirm="Open the blind holdout of this version? This can be done once and is recorded."
            done="The blind holdout is open."
          >
            Open
          </ActButton>
        </div>
      )}
      {look && (
        <>
          <p className="text-caption text-faded">
            Opened {moment(look.openedAt)}; {formatNumber(look.rows)} rows.
          </p>
          <dl className="mt-1 flex flex-wrap gap-x-8" data-testid="blind">
            {metricsFor(kind).map((name) => {
              const interval = look.intervals[name];
              return (
                <div key={name}>
                  <dt className="text-caption text-faded">{METRICS[name].title}</dt>
                  <dd className="figure text-section">{formatNumber(look.figures[name])}</dd>
                  {interval && (
                    <dd className="figure text-caption text-faded">
                      {formatNumber(interval[0])} – {formatNumber(interval[1])}
                    </dd>
                  )}
                </div>
              );
            })}
          </dl>
        </>
      )}
    </section>
  );
}
