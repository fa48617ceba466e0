"use client";
import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatCount, formatNumber, formatShare } from "@/core/format/numbers";
import { Fragment, useState } from "react";
import { MUCH_DRIFT, SOME_DRIFT } from "@/core/evaluate/drift";
import type { DriftRow, PastDrift } from "@/store/drift";
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
export function DriftView({
  newest,
  past,
}: {
  readonly newest: DriftRow;
  /** Indexes of the last runs, the newest included. */
  readonly past: readonly PastDrift[];
}) {
  const [open, setOpen] = useState<string>();
  const columns = [...newest.columns].sort((left, right) => right.psi - left.psi);
  const index = figureColumn(columns, ({ psi }) => formatNumber(psi));
  const distance = figureColumn(columns, ({ ks }) => formatNumber(ks));
  return (
    <section aria-label="Input drift" className="mt-8">
      <h2>Input drift</h2>
      <p className="text-caption text-faded">
        Population stability index of each source column of features, and of the predictions, over the last{" "}
        {formatCount(past.length, "scoring run")}; the newest for {moment(newest.runTime)} with{" "}
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
          {columns.map((drift) => {
            const { says, tone } = words(drift.psi);
            return (
              <Fragment key={drift.column}>
                <tr>
                  <td>
                    <button
                      type="button"
                      className="underline decoration-weft underline-offset-4"
                      aria-expanded={open === drift.column}
                      onClick={() => setOpen(open === drift.column ? undefined : drift.column)}
                    >
                      {drift.column}
                    </button>
                  </td>
                  <NumberCell figure={index(drift)} className={tone} />
                  <td className={`text-caption ${tone}`}>{says}</td>
                  <td>
                    <OverTime column={drift.column} past={past} />
                  </td>
                  <NumberCell figure={distance(drift)} />
                  <td className="number">
                    {formatShare(drift.missing[0])} → {formatShare(drift.missing[1])}
                  </td>
                </tr>
                {open === drift.column && (
                  <tr>
                    <td colSpan={6}>
                      <DriftParts drift={drift} />
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
function OverTime({ column, past }: { readonly column: string; readonly past: readonly PastDrift[] }) {
  const points = past.flatMap(({ runTime, psi }) => {
    const value = psi[column];
    return value === undefined ? [] : [{ name: moment(runTime), value }];
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
