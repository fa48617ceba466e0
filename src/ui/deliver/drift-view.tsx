"use client";
import { formatNumber, formatShare } from "@/core/format/numbers";
import { Fragment, useState } from "react";
import { MUCH_DRIFT, SOME_DRIFT } from "@/core/evaluate/drift";
import type { DriftRow } from "@/store/drift";
import { moment } from "../basic/format";
import { TrendCell } from "../charts/trend-cell";
import { DriftParts } from "./drift-parts";
import { Sheet } from "../basic/sheet";

/** The index above which a line is drawn at the upper edge. */
const HIGHEST = 0.5;

function words(psi: number): { readonly says: string; readonly tone: string } {
  if (psi >= MUCH_DRIFT) return { says: "large drift", tone: "text-madder" };
  return psi >= SOME_DRIFT
    ? { says: "some drift", tone: "text-weld" }
    : { says: "no drift", tone: "text-moss" };
}

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
      <Sheet className="mt-1" data-testid="drift">
        <thead>
          <tr>
            <th>Column</th>
            <th className="number">Index</th>
            <th>Result</th>
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
                      <DriftParts drift={each} />
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </Sheet>
    </section>
  );
}

/** The index of one column, run by run, with the two bounds. */
function OverTime({ column, runs }: { readonly column: string; readonly runs: readonly DriftRow[] }) {
  const points = runs.flatMap((run) => {
    const found = run.columns.find((one) => one.column === column);
    return found ? [{ name: moment(run.runTime), value: found.psi }] : [];
  });
  return (
    <TrendCell
      label={`Index of ${column} over ${points.length} runs, last ${formatNumber(points.at(-1)?.value)}`}
      points={points}
      domain={[0, HIGHEST]}
      bounds={[SOME_DRIFT, MUCH_DRIFT]}
    />
  );
}
