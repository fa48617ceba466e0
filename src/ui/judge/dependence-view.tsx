"use client";
import { formatNumber } from "@/core/format/numbers";
import { useQueryState } from "nuqs";
import type { Judgement } from "@/core/evaluate/judgement";

import { Bars } from "../charts/bars";
import { LineChart } from "../charts/line-chart";
import { ColumnChoice } from "./column-choice";

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
  const chosen = all.find((each) => each.column === column) ?? all[0];
  if (!chosen) return null;
  const place = Math.max(0, outputs.indexOf(output));
  const numeric = chosen.points.every((each) => typeof each.at === "number");
  const most = Math.max(...chosen.points.map((each) => each.outputs[place] ?? 0), 1e-12);
  return (
    <section aria-label="Dependence">
      <div className="mb-1 flex flex-wrap items-center gap-4">
        <h2>Partial dependence</h2>
        <ColumnChoice
          label="feature"
          value={chosen.column}
          columns={all.map((each) => each.column)}
          onChange={(each) => void setColumn(each)}
        />
        {outputs.length > 1 && (
          <ColumnChoice
            label="class"
            value={outputs[place]!}
            columns={outputs}
            onChange={(each) => void setOutput(each)}
          />
        )}
      </div>
      <p className="text-sm text-faded">
        Mean {what}, other features unchanged. Where rows are few, the curve is uncertain.
        {features > all.length &&
          ` Curves for the ${formatNumber(all.length)} of ${formatNumber(features)} most important features.`}
      </p>
      {numeric ? (
        <div>
          <LineChart
            label={`Dependence on ${chosen.column}`}
            xName={chosen.column}
            yName={what}
            width={520}
            height={240}
            series={[
              {
                name: what,
                points: chosen.points.map((each): [number, number] => [
                  Number(each.at),
                  each.outputs[place] ?? 0,
                ]),
                stroke: "var(--woad)",
                dots: chosen.points.length < 25,
              },
            ]}
          />
          <div className="pl-[52px]">
            <Bars
              width={454}
              height={30}
              bars={chosen.points.map((each, index) => ({
                from: formatNumber(Number(each.at)),
                to: formatNumber(Number(chosen.points[index + 1]?.at ?? each.at)),
                rows: each.rows,
              }))}
            />
          </div>
        </div>
      ) : (
        <table className="sheet max-w-2xl">
          <thead>
            <tr>
              <th>{chosen.column}</th>
              <th className="number">{what}</th>
              <th aria-label="Size" />
              <th className="number">Rows used</th>
            </tr>
          </thead>
          <tbody>
            {chosen.points.map((each) => (
              <tr key={String(each.at)}>
                <td>{each.at === null ? "(missing)" : String(each.at)}</td>
                <td className="number">{formatNumber(each.outputs[place])}</td>
                <td>
                  <svg width="200" height="10" aria-hidden>
                    <rect
                      width={Math.max(0, ((each.outputs[place] ?? 0) / most) * 200)}
                      height="10"
                      fill="var(--woad)"
                      opacity="0.6"
                    />
                  </svg>
                </td>
                <td className="number">{each.rows}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
