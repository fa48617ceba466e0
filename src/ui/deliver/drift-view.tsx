"use client";
import { formatNumber, formatShare } from "@/core/format/numbers";
import { Fragment, useState } from "react";
import { MUCH_DRIFT, SOME_DRIFT, type Drift } from "@/core/evaluate/drift";
import type { DriftRow } from "@/store/drift";
import { moment } from "../basic/format";

const [WIDTH, HEIGHT] = [260, 30];
/** The index above which a line is drawn at the upper edge. */
const HIGHEST = 0.5;

const words = (psi: number): { readonly says: string; readonly tone: string } =>
  psi >= MUCH_DRIFT
    ? { says: "large drift", tone: "text-madder" }
    : psi >= SOME_DRIFT
      ? { says: "some drift", tone: "text-weld" }
      : { says: "no drift", tone: "text-moss" };

/** How far the rows of scoring runs were from those of training, column by column over time. */
export function DriftView({ runs }: { readonly runs: readonly DriftRow[] }) {
  const [open, setOpen] = useState<string>();
  const newest = runs.at(-1);
  if (!newest) return null;
  const columns = [...newest.columns].sort((left, right) => right.psi - left.psi);
  return (
    <section aria-label="Input drift" className="mt-8">
      <h2>Input drift</h2>
      <p className="text-sm text-faded">
        Population stability index of each source column of features, and of the predictions, over the last{" "}
        {runs.length} scoring run{runs.length === 1 ? "" : "s"}; the newest for {moment(newest.runTime)} with{" "}
        {formatNumber(newest.rows)} rows. From {SOME_DRIFT} drift is some, from {MUCH_DRIFT} large. An alert
        opens when the predictions drift that far, or any column if the delivery’s contract sets most_drift.
      </p>
      <table className="sheet mt-1" data-testid="drift">
        <thead>
          <tr>
            <th>Column</th>
            <th className="number">Index</th>
            <th />
            <th>Over time</th>
            <th className="number">KS distance</th>
            <th className="number">Missing, training → now</th>
          </tr>
        </thead>
        <tbody>
          {columns.map((each) => {
            const { says, tone } = words(each.psi);
            return (
              <Fragment key={each.column}>
                <tr>
                  <td>
                    <button
                      type="button"
                      className="underline decoration-weft underline-offset-4"
                      aria-expanded={open === each.column}
                      onClick={() => setOpen(open === each.column ? undefined : each.column)}
                    >
                      {each.column}
                    </button>
                  </td>
                  <td className={`number ${tone}`}>{formatNumber(each.psi)}</td>
                  <td className={`text-sm ${tone}`}>{says}</td>
                  <td>
                    <OverTime column={each.column} runs={runs} />
                  </td>
                  <td className="number">{each.ks === null ? "–" : formatNumber(each.ks)}</td>
                  <td className="number">
                    {formatShare(each.missing[0])} → {formatShare(each.missing[1])}
                  </td>
                </tr>
                {open === each.column && (
                  <tr>
                    <td colSpan={6}>
                      <Parts drift={each} />
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

/** The index of one column, run by run, with the two bounds. */
function OverTime({ column, runs }: { readonly column: string; readonly runs: readonly DriftRow[] }) {
  const y = (psi: number): number => HEIGHT - 3 - (Math.min(psi, HIGHEST) / HIGHEST) * (HEIGHT - 6);
  const x = (index: number): number =>
    runs.length === 1 ? WIDTH / 2 : 4 + (index / (runs.length - 1)) * (WIDTH - 8);
  const points = runs.flatMap((run, index) => {
    const found = run.columns.find((each) => each.column === column);
    return found ? [{ at: x(index), psi: found.psi, run }] : [];
  });
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label={`Index of ${column} over ${points.length} runs, last ${formatNumber(points.at(-1)?.psi) ?? "unknown"}`}
    >
      <line
        x1="0"
        x2={WIDTH}
        y1={y(SOME_DRIFT)}
        y2={y(SOME_DRIFT)}
        stroke="var(--weld)"
        strokeDasharray="2 3"
        opacity="0.7"
      />
      <line
        x1="0"
        x2={WIDTH}
        y1={y(MUCH_DRIFT)}
        y2={y(MUCH_DRIFT)}
        stroke="var(--madder)"
        strokeDasharray="2 3"
        opacity="0.7"
      />
      <polyline
        points={points.map((each) => `${each.at},${y(each.psi)}`).join(" ")}
        fill="none"
        stroke="var(--woad)"
        strokeWidth="1.5"
      />
      {points.map((each) => (
        <circle
          key={each.run.runId}
          cx={each.at}
          cy={y(each.psi)}
          r="2.2"
          fill={each.psi >= MUCH_DRIFT ? "var(--madder)" : "var(--woad)"}
        >
          <title>{`${moment(each.run.runTime)}: ${formatNumber(each.psi)}`}</title>
        </circle>
      ))}
    </svg>
  );
}

/** Shares of each part, in training and in the newest run. */
function Parts({ drift }: { readonly drift: Drift }) {
  const most = Math.max(...drift.parts.flatMap((each) => [each.before, each.now]), 0.001);
  return (
    <table className="text-sm" data-testid="drift-parts">
      <thead>
        <tr className="text-left text-faded">
          <th className="pr-4 font-normal">{drift.column}</th>
          <th className="w-60 font-normal">in training</th>
          <th className="w-60 font-normal">newest run</th>
        </tr>
      </thead>
      <tbody>
        {drift.parts.map((each) => (
          <tr key={each.name}>
            <td className="max-w-56 truncate pr-4" title={each.name}>
              {each.name}
            </td>
            {[each.before, each.now].map((share, index) => (
              <td key={index}>
                <span
                  className="mr-2 inline-block h-2.5 align-middle"
                  style={{
                    width: `${(150 * share) / most}px`,
                    background: index === 0 ? "var(--faded)" : "var(--woad)",
                  }}
                />
                <span className="figure text-faded">{formatShare(share)}</span>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
