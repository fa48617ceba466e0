"use client";
import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatNumber } from "@/core/format/numbers";
import { useQueryState } from "nuqs";
import type { Judgement } from "@/core/evaluate/judgement";

import { BarCell } from "../charts/bar-cell";
import { cellAxis, CellAxisHead } from "../charts/cell-axis";
import { Plot } from "../charts/plot";
import { ColumnChoice } from "./column-choice";
import { Sheet } from "../basic/sheet";

/** With more points than these, dots would hide the line. */
const MOST_DOTS = 25;

/** How the mean prediction follows one feature, with where the data lie beneath. */
export function DependenceView({
  all,
  features,
  outputs,
  what,
}: {
  readonly all: Judgement["dependence"];
  /** How many features the model reads. */
  readonly features: number;
  readonly outputs: readonly string[];
  readonly what: string;
}) {
  const [column, setColumn] = useQueryState("feature", { defaultValue: all[0]?.column ?? "" });
  const [output, setOutput] = useQueryState("class", { defaultValue: outputs[0] ?? "" });
  const chosen = all.find((dependence) => dependence.column === column) ?? all[0];
  if (!chosen) return null;
  const place = Math.max(0, outputs.indexOf(output));
  const mean = figureColumn(chosen.points, (point) => formatNumber(point.outputs[place]));
  const numeric = chosen.points.every((point) => typeof point.at === "number");
  const axis = cellAxis({ title: what }, [0, ...chosen.points.map((point) => point.outputs[place])]);
  return (
    <section aria-label="Dependence">
      <div className="mb-1 flex flex-wrap items-center gap-4">
        <h2>Partial dependence</h2>
        <ColumnChoice
          label="feature"
          value={chosen.column}
          columns={all.map((dependence) => dependence.column)}
          onChange={(chosenColumn) => void setColumn(chosenColumn)}
        />
        {outputs.length > 1 && (
          <ColumnChoice
            label="class"
            value={outputs[place]!}
            columns={outputs}
            onChange={(chosenOutput) => void setOutput(chosenOutput)}
          />
        )}
      </div>
      <p className="text-caption text-faded">
        Mean {what}, other features unchanged. Where rows are few, the curve is uncertain.
        {features > all.length &&
          ` Curves for the ${formatNumber(all.length)} of ${formatNumber(features)} most important features.`}
      </p>
      {numeric ? (
        <Plot
          title={`${what} by ${chosen.column}`}
          label={`Dependence on ${chosen.column}`}
          x={{ title: chosen.column }}
          y={{ title: what }}
          width={560}
          height={270}
          density={chosen.points.map((point) => ({ x: Number(point.at), rows: point.rows }))}
          series={[
            {
              name: what,
              look: "first",
              mark: chosen.points.length < MOST_DOTS ? "dotted line" : "line",
              points: chosen.points.map((point) => ({
                x: Number(point.at),
                y: point.outputs[place] ?? 0,
                note: `${formatNumber(point.rows)} rows`,
              })),
            },
          ]}
        />
      ) : (
        <Sheet className="max-w-2xl">
          <thead>
            <tr>
              <th>{chosen.column}</th>
              <th className="number">{what}</th>
              <th>
                <CellAxisHead axis={axis} />
              </th>
              <th className="number">Rows used</th>
            </tr>
          </thead>
          <tbody>
            {chosen.points.map((point) => (
              <tr key={String(point.at)}>
                <td>{point.at === null ? "(missing)" : String(point.at)}</td>
                <NumberCell figure={mean(point)} />
                <td>
                  <BarCell axis={axis} value={point.outputs[place] ?? 0} />
                </td>
                <td className="number">{point.rows}</td>
              </tr>
            ))}
          </tbody>
        </Sheet>
      )}
    </section>
  );
}
