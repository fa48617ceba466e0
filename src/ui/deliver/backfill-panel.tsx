"use client";
import { formatNumber } from "@/core/format/numbers";
import { useEffect, useState } from "react";
import { changeBackfill, startBackfill } from "@/server/operating-actions";
import { ActButton } from "../basic/act";
import { moment } from "../basic/format";
import { useOwnName } from "../basic/own-name";
import { useFirst } from "../basic/use-first";
import { usePageRefresh } from "../basic/page-refresh";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

/** A backfill with how far it is. */
export interface BackfillProgress {
  readonly id: number;
  readonly delivery: string;
  readonly state: string;
  readonly from: string;
  readonly until: string;
  readonly cron: string;
  readonly zone: string;
  readonly total: number;
  readonly parallel: number;
  readonly by: string | null;
  readonly done: number;
  readonly failed: number;
  readonly underWay: number;
}

/** Backfills that are shown at first, the newest. */
const FEW_BACKFILLS = 5;

interface Props {
  readonly pipeline: string;
  readonly deliveries: readonly string[];
  readonly backfills: readonly BackfillProgress[];
  /** The present day of the application's clock, as 2026-06-30. */
  readonly today: string;
  readonly disabled: boolean;
}

const REFRESH_MILLISECONDS = 2000;

/** Catches up a range of logical times, as if each run had happened then; and what is under way of that. */
export function BackfillPanel({ pipeline, deliveries, backfills, today, disabled }: Props) {
  const refresh = usePageRefresh();
  const [name] = useOwnName();
  const [from, setFrom] = useState(daysBefore(today, 30));
  const [until, setUntil] = useState(daysBefore(today, 1));
  const [delivery, setDelivery] = useState(deliveries[0] ?? "");
  const [parallel, setParallel] = useState(2);
  const { shown, showAll } = useFirst(backfills, FEW_BACKFILLS, "backfills");
  const live = backfills.some((each) => each.state === "running" || each.underWay > 0);
  useEffect(() => {
    if (!live) return undefined;
    const timer = setInterval(() => refresh(), REFRESH_MILLISECONDS);
    return () => clearInterval(timer);
  }, [live, refresh]);
  return (
    <section aria-label="Backfill" className="mt-8">
      <h2>Backfill</h2>
      <p className="text-sm text-faded">
        Scores every scheduled time in a range, as if each run had happened then. A prediction of a later time
        is never overwritten by an earlier one.
      </p>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        {deliveries.length > 1 && (
          <label className="text-sm">
            Delivery
            <select
              className="field mt-0.5 block"
              value={delivery}
              onChange={(event) => setDelivery(event.target.value)}
            >
              {deliveries.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
        )}
        <label className="text-sm">
          From
          <input
            type="date"
            className="field mt-0.5 block"
            value={from}
            max={until}
            onChange={(event) => setFrom(event.target.value)}
          />
        </label>
        <label className="text-sm">
          Through
          <input
            type="date"
            className="field mt-0.5 block"
            value={until}
            max={today}
            onChange={(event) => setUntil(event.target.value)}
          />
        </label>
        <label className="text-sm">
          In parallel
          <input
            type="number"
            min={1}
            max={8}
            className="field mt-0.5 block w-20"
            value={parallel}
            onChange={(event) => setParallel(Number(event.target.value))}
          />
        </label>
        <ActButton
          disabled={disabled || from === "" || until === ""}
          act={() => startBackfill({ pipeline, delivery, from, until, parallel, by: name })}
          done="Backfill started."
        >
          Start backfill
        </ActButton>
      </div>
      {backfills.length > 0 && (
        <Sheet className="mt-3" data-testid="backfills">
          <thead>
            <tr>
              <th>Range</th>
              <th>Delivery</th>
              <th>Times</th>
              <th>Progress</th>
              <th className="number">Failed</th>
              <HiddenHead name="Actions" />
            </tr>
          </thead>
          <tbody>
            {shown.map((each) => (
              <tr key={each.id}>
                <td className="whitespace-nowrap">
                  {moment(each.from)} to {moment(each.until)}
                  {each.by && <span className="block text-xs text-faded">by {each.by}</span>}
                </td>
                <td>{each.delivery}</td>
                <td>
                  <code>{each.cron}</code>{" "}
                  <span className="text-faded">
                    in {each.zone}, {each.parallel} in parallel
                  </span>
                </td>
                <td>
                  <progress
                    className="mr-2 align-middle"
                    value={each.done + each.failed}
                    max={each.total}
                    aria-label={`${each.done} of ${each.total} done`}
                  />
                  <span className="figure">
                    {formatNumber(each.done)} of {formatNumber(each.total)}
                  </span>{" "}
                  {each.state !== "running" && <span className="text-faded">{each.state}</span>}
                </td>
                <td className={`number ${each.failed > 0 ? "text-madder" : ""}`}>
                  {formatNumber(each.failed)}
                </td>
                <td className="whitespace-nowrap text-right">
                  {each.state === "running" && (
                    <ActButton act={() => changeBackfill(each.id, "paused")}>Pause</ActButton>
                  )}{" "}
                  {each.state === "paused" && (
                    <ActButton act={() => changeBackfill(each.id, "running")}>Resume</ActButton>
                  )}{" "}
                  {(each.state === "running" || each.state === "paused") && (
                    <ActButton
                      act={() => changeBackfill(each.id, "stopped")}
                      confirm="Stop this backfill? Running scoring runs are cancelled; landed predictions stay."
                    >
                      Stop
                    </ActButton>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Sheet>
      )}
      {showAll}
    </section>
  );
}

function daysBefore(day: string, days: number): string {
  return new Date(new Date(`${day}T00:00:00Z`).getTime() - days * 86_400_000).toISOString().slice(0, 10);
}
