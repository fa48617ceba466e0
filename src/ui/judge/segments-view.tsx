"use client";
import { Skeleton } from "../basic/skeleton";
import { figureColumn } from "@/core/format/align-figures";
import { intervalColumn } from "@/core/format/align-intervals";
import { IntervalFigures, NumberCell } from "../basic/number-cell";
import { formatNumber } from "@/core/format/numbers";
import { useQueryState } from "nuqs";
import { useState } from "react";
import { METRICS, metricsFor, type MetricName } from "@/core/evaluate/metrics";
import type { Figures } from "@/core/evaluate/metrics";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import type { Task } from "@/core/learn/task";
import type { Segments } from "@/runs/judging/segments";

import { useRead } from "../queries/use-read";
import { cellAxis, CellAxisHead } from "../charts/cell-axis";
import { IntervalCell } from "../charts/interval-cell";
import { ColumnChoice } from "./column-choice";
import { PartChoice, usePart } from "./part-choice";
import { Sheet } from "../basic/sheet";
import { MetricSelect } from "../select/metric-select";

/** Figures by the values of one column: a model that fails at one place is seen. The dashed line is all rows of the part. */
export function SegmentsView({
  model,
  kind,
  columns,
  parts,
  wholes,
  insideFolds,
  first,
}: {
  readonly model: number;
  readonly kind: Task["kind"];
  readonly columns: readonly string[];
  /** The parts of rows that can be looked at. */
  readonly parts: readonly JudgedPart[];
  /** Figures of all rows of a part. */
  readonly wholes: Readonly<Partial<Record<JudgedPart, Figures>>>;
  readonly insideFolds: boolean;
  readonly first: string;
}) {
  const [part, setPart] = usePart(parts);
  const whole = wholes[part] ?? {};
  const [column, setColumn] = useQueryState("by", { defaultValue: first });
  const [metric, setMetric] = useQueryState("metric", { defaultValue: metricsFor(kind)[0]! as string });
  const chosen = (metricsFor(kind).find((name) => name === metric) ?? metricsFor(kind)[0]!) as MetricName;
  const [everything, setEverything] = useState(false);
  const {
    value: found,
    failure,
    asking,
  } = useRead<Segments>(
    `/api/models/${model}/segments?part=${part}&column=${encodeURIComponent(column)}${everything ? "&all=1" : ""}`,
  );
  const value = found?.segments;
  const axis = cellAxis({ title: METRICS[chosen].title }, [
    ...(value ?? []).flatMap(({ figures, intervals }) => [figures[chosen], ...(intervals[chosen] ?? [])]),
    whole[chosen],
  ]);
  const rows = value ?? [];
  const figures = figureColumn(rows, (segment) => formatNumber(segment.figures[chosen]));
  const actual = figureColumn(rows, (segment) => formatNumber(segment.actual));
  const predicted = figureColumn(rows, (segment) => formatNumber(segment.predicted));
  const ends = intervalColumn(rows, (segment) => segment.intervals[chosen], formatNumber);
  const singles = (value ?? []).some((segment) => segment.actual !== null);
  return (
    <section aria-label="By segment">
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <h2>By segment</h2>
        <PartChoice parts={parts} part={part} insideFolds={insideFolds} onChange={setPart} />
        <ColumnChoice
          label="by"
          value={column}
          columns={columns}
          onChange={(chosenColumn) => void setColumn(chosenColumn)}
        />
        <label className="flex items-center gap-2 text-caption text-faded">
          metric
          <MetricSelect
            label="metric"
            value={chosen}
            metrics={metricsFor(kind)}
            onChange={(name) => void setMetric(name)}
          />
        </label>
        {asking && value && (
          <span className="text-caption text-faded" role="status">
            counting …
          </span>
        )}
      </div>
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {asking && !value && <Skeleton label="computing segments …" columns={singles ? 7 : 5} className="" />}
      {value && (
        <Sheet data-testid="segments">
          <thead>
            <tr>
              <th>{column}</th>
              <th className="number">Rows</th>
              {singles && <th className="number">{kind === "number" ? "Mean actual" : "Positive"}</th>}
              {singles && <th className="number">Predicted</th>}
              <th className="number">{METRICS[chosen].title}</th>
              <th className="number">95 % interval</th>
              <th>
                <CellAxisHead
                  axis={axis}
                  hint={METRICS[chosen].better === "high" ? "higher is better →" : "← lower is better"}
                />
              </th>
            </tr>
          </thead>
          <tbody>
            {value.map((segment) => {
              const at = segment.figures[chosen];
              const interval = segment.intervals[chosen];
              const overall = whole[chosen];
              const worse = segment.worse.includes(chosen);
              return (
                <tr key={segment.label}>
                  <td>
                    {segment.label}
                    {worse && (
                      <span className="ml-2 border-b-2 border-madder text-caption text-madder">
                        significantly worse
                      </span>
                    )}
                  </td>
                  <td className="number">{formatNumber(segment.rows)}</td>
                  {singles && <NumberCell figure={actual(segment)} />}
                  {singles && <NumberCell figure={predicted(segment)} />}
                  <NumberCell figure={figures(segment)} />
                  <IntervalFigures ends={ends(segment)} title={segment.noIntervals} />
                  <td>
                    <IntervalCell
                      axis={axis}
                      label={`${segment.label}: ${formatNumber(at)}`}
                      value={at}
                      interval={interval}
                      reference={overall}
                      isWorse={worse}
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </Sheet>
      )}
      {found && (
        <p className="mt-2 text-caption text-faded">
          {found.all > found.segments.length ? (
            <>
              {found.segments.length} of {formatNumber(found.all)} segments.{" "}
              <button type="button" className="underline" onClick={() => setEverything(true)}>
                Show all
              </button>{" "}
            </>
          ) : null}
          A segment is significantly worse when its metric, relative to its own base rate or spread, is worse
          than that of all rows by more than chance explains in {formatNumber(found.all)} comparisons.
        </p>
      )}
    </section>
  );
}
