"use client";
import { formatDuration, formatNumber } from "@/core/format/numbers";
import { ChevronRight } from "lucide-react";
import { useState } from "react";
import type { RunStatementRow, RunStepRow } from "@/store/runs";
import type { UsualStep } from "@/store/usual-steps";

import { Elapsed } from "../basic/elapsed";
import { SqlText } from "../basic/sql-text";
import { StateWord } from "../basic/state-word";
import { STEP_COLUMNS, TimelineAxis } from "./timeline-axis";

interface Props {
  readonly steps: readonly RunStepRow[];
  readonly statements: readonly RunStatementRow[];
  /** What the step that is being done says of itself. */
  readonly now?: string | undefined;
  /** How the same steps went in earlier runs. */
  readonly usual?: readonly UsualStep[];
}

/** Fewer runs say nothing about what is usual. */
const LEAST_RUNS = 3;
/** A step is called slow from this many times its usual time, and this many milliseconds, on. */
const SLOW_TIMES = 2;
const SLOW_MILLISECONDS = 500;

/** How a step's time compares with its usual one. */
function Against({ took, usual }: { readonly took: number; readonly usual: UsualStep }) {
  const slow = took > usual.slow && took > SLOW_TIMES * usual.milliseconds && took > SLOW_MILLISECONDS;
  return (
    <span
      className={`block text-caption ${slow ? "text-weld" : "text-faded"}`}
      title={`Median of the last ${usual.runs} runs: ${formatDuration(usual.milliseconds)}; 90 % took at most ${formatDuration(usual.slow)}.`}
    >
      {slow
        ? `${formatNumber(Math.round((10 * took) / usual.milliseconds) / 10)} × typical`
        : `typically ${formatDuration(usual.milliseconds)}`}
    </span>
  );
}

/** Steps of a run against time, each with its rows and the statements it ran. */
export function RunTimeline({ steps, statements, now, usual = [] }: Props) {
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set());
  // Attempts may lie far apart: each has a scale of its own.
  const spans = new Map(
    [...new Set(steps.map((step) => step.attempt))].map((attempt) => {
      const own = steps.filter((step) => step.attempt === attempt);
      const begin = Math.min(...own.map((step) => new Date(step.startedAt).getTime()));
      return [
        attempt,
        {
          begin,
          end: Math.max(
            ...own.map((step) => new Date(step.finishedAt ?? step.startedAt).getTime()),
            begin + 1,
          ),
        },
      ];
    }),
  );
  const toggle = (id: number): void =>
    setOpen((now) => {
      const next = new Set(now);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const [only] = spans.values();
  return (
    <>
      {only && spans.size === 1 && <TimelineAxis milliseconds={only.end - only.begin} />}
      <ol aria-label="Steps of the run">
        {steps.map((step) => {
          const own = statements.filter((statement) => statement.stepId === step.id);
          const known = usual.find((duration) => duration.name === step.name && duration.runs >= LEAST_RUNS);
          const took = step.finishedAt
            ? new Date(step.finishedAt).getTime() - new Date(step.startedAt).getTime()
            : undefined;
          const { begin, end } = spans.get(step.attempt)!;
          const place = (time: Date | string): number =>
            (100 * (new Date(time).getTime() - begin)) / (end - begin);
          const from = place(step.startedAt);
          const width = Math.max(0.4, place(step.finishedAt ?? new Date(end)) - from);
          return (
            <li key={step.id} className="border-b border-weft">
              <button
                type="button"
                disabled={own.length === 0}
                aria-expanded={open.has(step.id)}
                onClick={() => toggle(step.id)}
                className={`grid w-full ${STEP_COLUMNS} items-center py-1.5 text-left`}
              >
                <ChevronRight
                  size={14}
                  aria-hidden
                  className={`${own.length === 0 ? "opacity-0" : ""} ${open.has(step.id) ? "rotate-90" : ""} text-faded`}
                />
                <StateWord state={step.state} />
                <span className="min-w-0">
                  <span className="font-medium">{step.name}</span>
                  {step.detail && <span className="text-faded"> · {step.detail}</span>}
                  {step.state === "running" && now && <span className="text-faded"> · {now}</span>}
                  {step.attempt > 1 && (
                    <span className="ml-2 text-caption text-weld">attempt {step.attempt}</span>
                  )}
                </span>
                <span className="relative h-2 bg-weft" aria-hidden>
                  <span
                    className={`absolute h-full ${step.state === "failed" ? "bg-madder" : "bg-woad"}`}
                    style={{ left: `${from}%`, width: `${Math.min(width, 100 - from)}%` }}
                  />
                </span>
                <span className="figure text-right">
                  {step.rows === null ? "" : `${formatNumber(step.rows)}`}
                  {step.rows !== null && known && known.rows !== null && (
                    <span className="block text-caption text-faded">
                      typically {formatNumber(known.rows)}
                    </span>
                  )}
                </span>
                <span className="figure text-right text-faded">
                  {took === undefined ? <Elapsed since={step.startedAt} /> : formatDuration(took)}
                  {took === undefined && known && (
                    <span className="block text-caption text-faded">
                      typically {formatDuration(known.milliseconds)}
                    </span>
                  )}
                  {took !== undefined && known && step.state === "done" && (
                    <Against took={took} usual={known} />
                  )}
                </span>
              </button>
              {open.has(step.id) && (
                <div className="mb-2 ml-6 space-y-3 border-l border-rule pl-4">
                  {own.map((statement) => (
                    <div key={statement.id}>
                      <p className="text-caption">
                        <span className="font-medium">{statement.purpose}</span>{" "}
                        <span className="figure text-faded">
                          {formatDuration(statement.milliseconds)}
                          {statement.rows === null ? "" : `, ${formatNumber(statement.rows)} rows`}
                        </span>
                      </p>
                      <div className="max-h-80 overflow-auto bg-paper">
                        <SqlText sql={statement.sql} />
                      </div>
                    </div>
                  ))}
                </div>
              )}
            </li>
          );
        })}
      </ol>
    </>
  );
}
