"use client";
import { formatNumber } from "@/core/format/numbers";
import { scaleLinear, scaleUtc } from "d3-scale";
import { useState } from "react";
import { METRICS, type Figures, type MetricName } from "@/core/evaluate/metrics";
import { promiseKept, shareBounds } from "@/core/evaluate/promise";
import { summarise } from "@/core/evaluate/truth-sql";
import type { ModelSummary } from "@/store/models";
import type { TruthRow } from "@/store/truth";

export interface TruthModel extends Pick<ModelSummary, "id" | "number" | "intervals"> {
  /** Figures of the holdout at the threshold of each delivery. */
  readonly promised: Readonly<Record<string, Figures>>;
  readonly holdoutRows: number;
}

/** What a version's holdout promises for a delivery, with the bounds that hold it with 95 %. */
function promiseOf(
  { promised, intervals, holdoutRows }: TruthModel,
  delivery: string,
  metric: MetricName,
): { readonly value: number | null | undefined; readonly bounds: readonly [number, number] | undefined } {
  const value = promised[delivery]?.[metric];
  // The kept interval of the accuracy is for a threshold of 0.5.
  const bounds =
    metric === "accuracy" && typeof value === "number"
      ? shareBounds(value, holdoutRows)
      : intervals?.[metric];
  return { value, bounds };
}

interface Props {
  readonly days: readonly TruthRow[];
  /** Deliveries of the newest file, which come before those that were. */
  readonly current: readonly string[];
  readonly models: readonly TruthModel[];
  readonly inService: number | null;
  /** Metrics that can be had from sums, the one that alerts go by first. */
  readonly metrics: readonly MetricName[];
}

const [WIDTH, HEIGHT] = [900, 230];
const MARGIN = { top: 12, right: 12, bottom: 26, left: 56 };
/** Days around each day of the line that smooths. */
const HALF_WINDOW = 3;
const STROKES = ["var(--woad)", "var(--weld)", "var(--moss)", "var(--faded)"];
const asDate = (day: string): Date => new Date(`${day}T00:00:00Z`);

/** What became of past predictions, by day and version, against what the holdout promised. */
export function TruthView({ days, current, models, inService, metrics }: Props) {
  const [metric, setMetric] = useState<MetricName>(metrics[0]!);
  const there = new Set(days.map((each) => each.delivery));
  const deliveries = [
    ...current.filter((name) => there.has(name)),
    ...[...there].filter((name) => !current.includes(name)),
  ];
  const [delivery, setDelivery] = useState(deliveries[0] ?? "");
  const mine = days.filter((each) => each.delivery === delivery);
  const versions = [...new Set(mine.map((each) => each.modelId))]
    .flatMap((id) => models.find((each) => each.id === id) ?? [])
    .sort(
      (left, right) =>
        Number(right.id === inService) - Number(left.id === inService) || right.number - left.number,
    );
  if (versions.length === 0) return null;
  const stroke = (id: number): string =>
    STROKES[
      Math.min(
        versions.findIndex((each) => each.id === id),
        STROKES.length - 1,
      )
    ]!;
  return (
    <section aria-label="Live against holdout" className="mt-8">
      <div className="flex flex-wrap items-end gap-x-5 gap-y-1">
        <h2>Live against holdout</h2>
        {deliveries.length > 1 && (
          <label className="text-sm text-faded">
            of{" "}
            <select
              className="field ml-1"
              value={delivery}
              onChange={(event) => setDelivery(event.target.value)}
            >
              {deliveries.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
        )}
        <label className="text-sm text-faded">
          by{" "}
          <select
            className="field ml-1"
            aria-label="Metric"
            value={metric}
            onChange={(event) => setMetric(event.target.value as MetricName)}
          >
            {metrics.map((each) => (
              <option key={each} value={each}>
                {METRICS[each].title}
              </option>
            ))}
          </select>
        </label>
      </div>
      <p className="text-sm text-faded">
        Live metrics by day of prediction, for predictions whose actual value has arrived. The band is the
        holdout’s 95 % interval; each dot is a day, larger with more actuals; the line is the mean over{" "}
        {2 * HALF_WINDOW + 1} days. “Worse” and “better” are significant at 95 %, given the number of actuals.
      </p>
      <TruthChart
        days={mine}
        versions={versions}
        metric={metric}
        delivery={delivery}
        stroke={stroke}
        promised={versions[0]!}
      />
      <table className="sheet mt-2" data-testid="truth">
        <thead>
          <tr>
            <th>Version</th>
            <th className="number">Predictions</th>
            <th className="number">Actuals so far</th>
            <th className="number">{METRICS[metric].title}</th>
            <th className="number">Holdout</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {versions.map((version) => {
            const own = mine.filter((each) => each.modelId === version.id);
            const { answered, figures } = summarise(
              own.map((each) => ({ ...each, version: version.number })),
            );
            const found = figures[metric];
            const { value: promised, bounds: range } = promiseOf(version, delivery, metric);
            const predicted = own.reduce((sum, each) => sum + each.predicted, 0);
            const kept = promiseKept({
              metric,
              found,
              predicted,
              answered,
              promised,
              bounds: range,
              holdoutRows: version.holdoutRows,
            });
            return (
              <tr key={version.id}>
                <td>
                  <span
                    className="mr-2 inline-block h-2.5 w-2.5"
                    style={{ background: stroke(version.id) }}
                  />
                  version {version.number}
                  {version.id === inService && <span className="text-moss"> in service</span>}
                </td>
                <td className="number">{formatNumber(predicted)}</td>
                <td className="number">{formatNumber(answered)}</td>
                <td className="number">{formatNumber(found)}</td>
                <td className="number">
                  {formatNumber(promised)}
                  {range && (
                    <span className="text-faded">
                      {" "}
                      ({formatNumber(range[0])} to {formatNumber(range[1])})
                    </span>
                  )}
                </td>
                <td className={`text-sm ${TONES[kept]}`}>{kept}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

const TONES = {
  "too few actuals": "text-faded",
  "as on holdout": "text-moss",
  "better than holdout": "text-moss",
  "worse than holdout": "text-madder",
} as const;

interface ChartProps {
  readonly days: readonly TruthRow[];
  readonly versions: Props["models"];
  readonly metric: MetricName;
  readonly stroke: (id: number) => string;
  readonly delivery: string;
  readonly promised: TruthModel;
}

interface Point {
  readonly day: string;
  readonly at: Date;
  readonly value: number;
  readonly answered: number;
}

/** Days that have a figure. */
const pointsOf = (days: readonly TruthRow[], metric: MetricName): readonly Point[] =>
  days.flatMap((each) => {
    const value = each.figures[metric];
    return typeof value === "number"
      ? [{ day: each.day, at: asDate(each.day), value, answered: each.answered }]
      : [];
  });

/** The figure of the days around each day, taken together. */
const smooth = (days: readonly TruthRow[], metric: MetricName): readonly Point[] =>
  days.flatMap((each, index) => {
    const near = days.slice(Math.max(0, index - HALF_WINDOW), index + HALF_WINDOW + 1);
    const { figures, answered } = summarise(near.map((day) => ({ ...day, version: day.modelId })));
    const value = figures[metric];
    return typeof value === "number" ? [{ day: each.day, at: asDate(each.day), value, answered }] : [];
  });

function TruthChart({ days, versions, metric, delivery, stroke, promised }: ChartProps) {
  const series = versions.map((version) => {
    const own = days.filter((each) => each.modelId === version.id);
    return { version, points: pointsOf(own, metric), smoothed: smooth(own, metric) };
  });
  const all = series.flatMap((each) => each.points);
  if (all.length === 0) return <p className="mt-2 text-faded">No actuals have arrived yet.</p>;
  const { value: promisedValue, bounds: band } = promiseOf(promised, delivery, metric);
  const values = [...series.flatMap((each) => each.smoothed).map((each) => each.value), ...(band ?? [])];
  // Days with few answers may lie far out; the picture is of the others.
  const often = all.filter((each) => each.answered >= 20).map((each) => each.value);
  const y = scaleLinear(
    [Math.min(...values, ...often), Math.max(...values, ...often)],
    [HEIGHT - MARGIN.bottom, MARGIN.top],
  ).nice();
  const x = scaleUtc(
    [
      new Date(Math.min(...all.map((each) => each.at.getTime())) - 43_200_000),
      new Date(Math.max(...all.map((each) => each.at.getTime())) + 43_200_000),
    ],
    [MARGIN.left, WIDTH - MARGIN.right],
  );
  const most = Math.max(...all.map((each) => each.answered));
  const clip = (value: number): number => Math.min(HEIGHT - MARGIN.bottom, Math.max(MARGIN.top, y(value)));
  const last = all.at(-1)!;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="mt-2 w-full max-w-[900px]"
      role="img"
      aria-label={`${METRICS[metric].title} of past predictions over ${all.length} days, on ${last.day} ${formatNumber(last.value)}; holdout ${formatNumber(promisedValue)}`}
    >
      {band && (
        <rect
          x={MARGIN.left}
          width={WIDTH - MARGIN.left - MARGIN.right}
          y={y(band[1])}
          height={Math.max(1, y(band[0]) - y(band[1]))}
          fill="var(--woad)"
          opacity="0.16"
        />
      )}
      {typeof promisedValue === "number" && (
        <line
          x1={MARGIN.left}
          x2={WIDTH - MARGIN.right}
          y1={y(promisedValue)}
          y2={y(promisedValue)}
          stroke="var(--faded)"
          strokeDasharray="4 3"
        />
      )}
      {y.ticks(5).map((tick) => (
        <text
          key={tick}
          x={MARGIN.left - 7}
          y={y(tick) + 4}
          textAnchor="end"
          fontSize="11"
          fontFamily="var(--font-mono)"
          fill="var(--faded)"
        >
          {formatNumber(tick)}
        </text>
      ))}
      {x.ticks(8).map((tick) => (
        <text
          key={tick.getTime()}
          x={x(tick)}
          y={HEIGHT - 8}
          textAnchor="middle"
          fontSize="11"
          fontFamily="var(--font-mono)"
          fill="var(--faded)"
        >
          {x.tickFormat(8, "%-d %b")(tick)}
        </text>
      ))}
      <line
        x1={MARGIN.left}
        x2={WIDTH - MARGIN.right}
        y1={HEIGHT - MARGIN.bottom}
        y2={HEIGHT - MARGIN.bottom}
        stroke="var(--rule)"
      />
      {series.map(({ version, points, smoothed }) => (
        <g key={version.id}>
          {points.map((each) => (
            <circle
              key={each.day}
              cx={x(each.at)}
              cy={clip(each.value)}
              r={1.5 + 3 * Math.sqrt(each.answered / most)}
              fill={stroke(version.id)}
              opacity="0.45"
            >
              <title>{`${each.day}, version ${version.number}: ${formatNumber(each.value)} on ${each.answered} answers`}</title>
            </circle>
          ))}
          <polyline
            points={smoothed.map((each) => `${x(each.at)},${clip(each.value)}`).join(" ")}
            fill="none"
            stroke={stroke(version.id)}
            strokeWidth="2"
          />
        </g>
      ))}
    </svg>
  );
}
