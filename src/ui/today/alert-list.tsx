"use client";
import { useState } from "react";
import { toast } from "sonner";
import type { AlertRow } from "@/store/alerts";
import { takeAlertOn } from "@/server/actions";
import { AgainButton } from "../basic/actions";
import { ago } from "../basic/format";
import { useOwnName } from "../basic/own-name";
import { Problems } from "../basic/problems";
import { useFirst } from "../basic/use-first";
import { PageLink } from "../basic/page-link";
import { usePageRefresh } from "../basic/page-refresh";

/** Open alerts that are shown at first. */
const FEW_ALERTS = 30;

const WORDS: Readonly<Record<AlertRow["kind"], string>> = {
  failed: "failed",
  contract: "data changed",
  late: "late",
  blocked: "cannot start",
  undecided: "needs a decision",
  worse: "worse than holdout",
  drift: "drift",
};

/** Alerts that are open, with what to do; and those that have cleared lately. */
export function AlertList({ alerts, now }: { readonly alerts: readonly AlertRow[]; readonly now: Date }) {
  const { shown: open, showAll } = useFirst(
    alerts.filter((alert) => alert.clearedAt === null),
    FEW_ALERTS,
    "matters",
  );
  const cleared = alerts.filter((alert) => alert.clearedAt !== null);
  return (
    <section aria-label="Alerts" className="mb-8" data-testid="alerts">
      {open.length > 0 && <h2>Needs attention</h2>}
      {open.map((alert) => (
        <OpenAlert key={alert.id} alert={alert} now={now} />
      ))}
      {showAll}
      {cleared.length > 0 && (
        <details className="mt-3 text-caption">
          <summary className="cursor-pointer text-faded">{cleared.length} cleared in the last day</summary>
          <ul className="mt-1 space-y-1">
            {cleared.map((alert) => (
              <li key={alert.id}>
                <span className="text-moss">cleared</span> {alert.title}{" "}
                <span className="text-faded">
                  {alert.clearedAt && ago(alert.clearedAt, now)}: {alert.clearedWith}
                </span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

function OpenAlert({ alert, now }: { readonly alert: AlertRow; readonly now: Date }) {
  return (
    <div data-testid="alert" className="flex items-start justify-between gap-6 border-b border-weft py-2">
      <div className="min-w-0">
        <span className="mr-2 border border-madder px-1 text-caption text-madder">{WORDS[alert.kind]}</span>
        {alert.runId ? (
          <PageLink className="font-medium" href={`/runs/${alert.runId}`}>
            {alert.title}
          </PageLink>
        ) : (
          <span className="font-medium">{alert.title}</span>
        )}{" "}
        <span className="text-faded">
          since {ago(alert.openedAt, now)}
          {alert.times > 1 ? `, ${alert.times} times, last ${ago(alert.lastAt, now)}` : ""}
        </span>
        <div className="mt-1">
          <Problems problems={alert.problems} />
        </div>
      </div>
      <div className="flex shrink-0 items-center gap-2">
        {alert.acknowledgedBy ? (
          <span className="text-caption text-faded">{alert.acknowledgedBy} is handling it</span>
        ) : (
          <TakeOn alert={alert.id} />
        )}
        {alert.runId && (alert.kind === "failed" || alert.kind === "contract") && (
          <AgainButton run={alert.runId} />
        )}
      </div>
    </div>
  );
}

/** Takes an alert on; asks once for a name, when none is known yet. */
function TakeOn({ alert }: { readonly alert: number }) {
  const refresh = usePageRefresh();
  const [name, setName] = useOwnName();
  const [asking, setAsking] = useState(false);
  const [typed, setTyped] = useState("");
  const take = async (by: string): Promise<void> => {
    const outcome = await takeAlertOn(alert, by);
    if (outcome.ok) refresh();
    else toast.error(outcome.problems[0]?.message ?? "It could not be saved.");
  };
  if (!asking)
    return (
      <button
        type="button"
        className="press"
        onClick={() => (name === "" ? setAsking(true) : void take(name))}
      >
        Take over
      </button>
    );
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (typed.trim() === "") return;
        setName(typed.trim());
        void take(typed.trim());
      }}
    >
      <input
        autoFocus
        aria-label="Your name"
        placeholder="your name"
        className="field w-32"
        maxLength={80}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      <button type="submit" className="press">
        Save
      </button>
    </form>
  );
}
