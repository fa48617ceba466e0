"use client";
import { CirclePlay, Pause, Square } from "lucide-react";
import { formatNumber } from "@/core/format/numbers";
import { useEffect } from "react";
import { changeBackfill } from "@/server/operating-actions";
import { ActButton } from "../basic/act";
import { BackfillForm } from "./backfill-form";
import { moment } from "../basic/format";
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
  const { shown, showAll } = useFirst(backfills, FEW_BACKFILLS, "backfills");
  const live = backfills.some((backfill) => backfill.state === "running" || backfill.underWay > 0);
  useEffect(() => {
    if (!live) return undefined;
    const timer = setInterval(() => refresh(), REFRESH_MILLISECONDS);
    return () => clearInterval(timer);
  }, [live, refresh]);
  return (
    <section aria-label="Backfill" className="mt-8">
      <h2>Backfill</h2>
      <p className="text-caption text-faded">
        Scores every scheduled time in a range, as if each run had happened then. A prediction of a later time
        is never overwritten by an earlier one.
      </p>
      <BackfillForm pipeline={pipeline} deliveries={deliveries} today={today} disabled={disabled} />
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
            {shown.map((backfill) => (
              <tr key={backfill.id}>
                <td className="whitespace-nowrap">
                  {moment(backfill.from)} to {moment(backfill.until)}
                  {backfill.by && <span className="block text-caption text-faded">by {backfill.by}</span>}
                </td>
                <td>{backfill.delivery}</td>
                <td>
                  <code>{backfill.cron}</code>{" "}
                  <span className="text-faded">
                    in {backfill.zone}, {backfill.parallel} in parallel
                  </span>
                </td>
                <td>
                  <progress
                    className="mr-2 align-middle"
                    value={backfill.done + backfill.failed}
                    max={backfill.total}
                    aria-label={`${backfill.done} of ${backfill.total} done`}
                  />
                  <span className="figure">
                    {formatNumber(backfill.done)} of {formatNumber(backfill.total)}
                  </span>{" "}
                  {backfill.state !== "running" && <span className="text-faded">{backfill.state}</span>}
                </td>
                <td className={`number ${backfill.failed > 0 ? "text-madder" : ""}`}>
                  {formatNumber(backfill.failed)}
                </td>
                <td className="whitespace-nowrap text-right">
                  {backfill.state === "running" && (
                    <ActButton icon={Pause} act={() => changeBackfill(backfill.id, "paused")}>
                      Pause
                    </ActButton>
                  )}{" "}
                  {backfill.state === "paused" && (
                    <ActButton icon={CirclePlay} act={() => changeBackfill(backfill.id, "running")}>
                      Resume
                    </ActButton>
                  )}{" "}
                  {(backfill.state === "running" || backfill.state === "paused") && (
                    <ActButton
                      icon={Square}
                      act={() => changeBackfill(backfill.id, "stopped")}
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
