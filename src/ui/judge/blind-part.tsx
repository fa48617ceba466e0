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
    <section aria-label="Blind part">
      <h2>The blind part</h2>
      {!look && (
        <div className="mt-1 flex items-center gap-4">
          <p className="max-w-2xl text-sm text-faded">
            These rows were scored, but nobody has seen how well. Open them when everything is decided: it
            happens once, and the moment is recorded.
          </p>
          <ActButton
            act={() => openBlind(model)}
            confirm="Open the blind part of this version? It can be opened once, and the moment is recorded."
            done="The blind part is open."
          >
            Open it
          </ActButton>
        </div>
      )}
      {look && (
        <>
          <p className="text-sm text-faded">
            Opened {moment(look.openedAt)}; {formatNumber(look.rows)} rows.
          </p>
          <dl className="mt-1 flex flex-wrap gap-x-8" data-testid="blind">
            {metricsFor(kind).map((name) => {
              const interval = look.intervals[name];
              return (
                <div key={name}>
                  <dt className="text-sm text-faded">{METRICS[name].title}</dt>
                  <dd className="figure text-lg">{formatNumber(look.figures[name])}</dd>
                  {interval && (
                    <dd className="figure text-xs text-faded">
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
