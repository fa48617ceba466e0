"use client";
import { formatNumber } from "@/core/format/numbers";
import { useQueryState } from "nuqs";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import type { ResidualBin } from "@/runs/judging/segments";

import { useRead } from "../basic/use-read";
import { LineChart } from "../charts/line-chart";
import { Key } from "../charts/training-chart";
import { ColumnChoice } from "./column-choice";
import { PART_WORDS, PartChoice, usePart } from "./part-choice";

/** Predicted against actual values, and what is left over: along the prediction, along any column, with both curves drawn. */
export function ResidualsView({
  model,
  pairs,
  parts,
  insideFolds,
  columns,
  skewness,
  figures,
}: {
  readonly model: number;
  /** Predicted and actual value of some rows of each part; there are none of the blind part. */
  readonly pairs: Readonly<Partial<Record<JudgedPart, readonly (readonly [number, number])[]>>>;
  /** The parts of rows that can be looked at. */
  readonly parts: readonly JudgedPart[];
  readonly insideFolds: boolean;
  readonly columns: readonly string[];
  readonly skewness: number;
  readonly figures: {
    readonly rmse?: number | null;
    readonly mae?: number | null;
    readonly median_error?: number | null;
  };
}) {
  const [part, setPart] = usePart(parts);
  const points = pairs[part];
  const [column, setColumn] = useQueryState("along", { defaultValue: "prediction" });
  const { value, failure, asking } = useRead<readonly ResidualBin[]>(
    `/api/models/${model}/residuals?part=${part}&column=${encodeURIComponent(column)}`,
  );
  const other = otherPart(part, parts);
  const { value: compared } = useRead<readonly ResidualBin[]>(
    other && `/api/models/${model}/residuals?part=${other}&column=${encodeURIComponent(column)}`,
  );
  const [placed, beside] = [placedBins(value), placedBins(compared)];
  return (
    <section aria-label="Errors">
      <div className="mb-1 flex items-center gap-4">
        <h2>Errors</h2>
        <PartChoice parts={parts} part={part} insideFolds={insideFolds} onChange={setPart} />
      </div>
      <p className="mb-2 max-w-3xl text-sm" data-testid="advice">
        {advice(skewness, figures)}
      </p>
      <div className="flex flex-wrap gap-x-8 gap-y-4">
        {points && (
          <figure>
            <figcaption className="font-medium">Predicted against actual</figcaption>
            <Scatter pairs={points} />
          </figure>
        )}
        <div>
          <div className="flex items-center gap-3">
            <ColumnChoice
              label="residuals by"
              value={column}
              columns={["prediction", ...columns]}
              onChange={(name) => void setColumn(name)}
            />
            {asking && (
              <span className="text-sm text-faded" role="status">
                counting …
              </span>
            )}
          </div>
          {failure && (
            <p role="alert" className="text-madder">
              {failure}
            </p>
          )}
          {placed.length > 1 && (
            <div className="mt-1 flex flex-wrap gap-x-6">
              <div>
                <LineChart
                  label={`Residuals by ${column}`}
                  xName={column}
                  yName="actual minus predicted"
                  width={360}
                  height={230}
                  series={[
                    {
                      name: "lower quartile",
                      points: placed.map((group): [number, number] => [group.place, group.quartiles[0]]),
                      stroke: "var(--faded)",
                      dash: "3 3",
                    },
                    {
                      name: "upper quartile",
                      points: placed.map((group): [number, number] => [group.place, group.quartiles[2]]),
                      stroke: "var(--faded)",
                      dash: "3 3",
                    },
                    {
                      name: "median",
                      points: placed.map((group): [number, number] => [group.place, group.quartiles[1]]),
                      stroke: "var(--plum)",
                    },
                    ...(beside.length > 1 && other
                      ? [
                          {
                            name: `median of ${PART_WORDS[other]}`,
                            points: beside.map((group): [number, number] => [
                              group.place,
                              group.quartiles[1],
                            ]),
                            stroke: "var(--madder)",
                            dash: "7 3 2 3",
                          },
                        ]
                      : []),
                  ]}
                />
                <p className="flex gap-4 text-sm text-faded">
                  <Key stroke="var(--plum)">median, {PART_WORDS[part]}</Key>
                  {beside.length > 1 && other && (
                    <Key stroke="var(--madder)" dash="7 3 2 3">
                      median, {PART_WORDS[other]}
                    </Key>
                  )}
                  <Key stroke="var(--faded)" dash="3 3">
                    quartiles
                  </Key>
                </p>
              </div>
              <div>
                <LineChart
                  label={`Actual and predicted by ${column}`}
                  xName={column}
                  yName="mean"
                  width={360}
                  height={230}
                  series={[
                    {
                      name: "actual",
                      points: placed.map((group): [number, number] => [group.place, group.actual]),
                      stroke: "var(--moss)",
                    },
                    {
                      name: "predicted",
                      points: placed.map((group): [number, number] => [group.place, group.predicted]),
                      stroke: "var(--woad)",
                      dash: "6 3",
                    },
                  ]}
                />
                <p className="flex gap-4 text-sm text-faded">
                  <Key stroke="var(--moss)">actual</Key>
                  <Key stroke="var(--woad)" dash="6 3">
                    predicted
                  </Key>
                </p>
              </div>
            </div>
          )}
          {value && placed.length <= 1 && (
            <table className="sheet mt-2">
              <thead>
                <tr>
                  <th>{column}</th>
                  <th className="number">Rows</th>
                  <th className="number">Actual</th>
                  <th className="number">Predicted</th>
                  <th className="number">Median residual</th>
                  {other && <th className="number">of {PART_WORDS[other]}</th>}
                </tr>
              </thead>
              <tbody>
                {value.map((group) => (
                  <tr key={group.label}>
                    <td>{group.label}</td>
                    <td className="number">{group.rows}</td>
                    <td className="number">{formatNumber(group.actual)}</td>
                    <td className="number">{formatNumber(group.predicted)}</td>
                    <td className="number">{formatNumber(group.quartiles[1])}</td>
                    {other && (
                      <td className="number">
                        {formatNumber(compared?.find(({ label }) => label === group.label)?.quartiles[1])}
                      </td>
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
      </div>
    </section>
  );
}

/** The part whose errors are drawn beside those of another: training rows, or for these the rows that judge. */
function otherPart(part: JudgedPart, parts: readonly JudgedPart[]): JudgedPart | undefined {
  const wanted = part === "training" ? "holdout" : "training";
  return parts.includes(wanted) ? wanted : undefined;
}

const placedBins = (bins: readonly ResidualBin[] | undefined) =>
  (bins ?? []).filter((bin): bin is ResidualBin & { readonly place: number } => bin.place !== null);

/** Which error suits the target. */
function advice(
  skewness: number,
  {
    rmse,
    mae,
    median_error: median,
  }: { readonly rmse?: number | null; readonly mae?: number | null; readonly median_error?: number | null },
): string {
  const size = `Skewness: ${formatNumber(skewness)}`;
  if (Math.abs(skewness) < 1)
    return `The target is about symmetric (${size.toLowerCase()}): RMSE and mean absolute error agree, and most algorithms minimise RMSE.`;
  const ratio =
    rmse && mae
      ? ` Here the RMSE (${formatNumber(rmse)}) is ${formatNumber(rmse / mae)} times the mean absolute error (${formatNumber(mae)}), and half of the errors are below ${formatNumber(median)}.`
      : "";
  return `The target has a long tail of ${skewness > 0 ? "large" : "small"} values (${size.toLowerCase()}). RMSE depends mostly on those few rows. If each unit of error costs the same, use mean absolute error and try the absolute loss; if a typical row matters, use median absolute error.${ratio}`;
}

function Scatter({ pairs }: { readonly pairs: readonly (readonly [number, number])[] }) {
  const sorted = pairs.flat().sort((left, right) => left - right);
  // A few values far out would press all others into a corner.
  const [low, high] = [sorted[0] ?? 0, sorted[Math.floor(0.995 * (sorted.length - 1))] ?? 1];
  const at = (value: number, size: number, flip: boolean): number => {
    const place = Math.max(0, Math.min(1, high > low ? (value - low) / (high - low) : 0.5));
    return 40 + (flip ? 1 - place : place) * size;
  };
  return (
    <svg width="320" height="310" role="img" aria-label="Predicted against actual values">
      <line x1={40} y1={290} x2={310} y2={20} stroke="var(--rule)" strokeDasharray="4 4" />
      <line x1={40} x2={310} y1={290} y2={290} stroke="var(--rule)" />
      <line x1={40} x2={40} y1={20} y2={290} stroke="var(--rule)" />
      {pairs.map(([predicted, actual], index) => (
        <circle
          key={index}
          cx={at(predicted, 270, false)}
          cy={at(actual, 270, true) - 20}
          r="2"
          fill="var(--woad)"
          opacity="0.45"
        />
      ))}
      <text x="175" y="306" textAnchor="middle" fontSize="11.5" fill="var(--faded)">
        predicted
      </text>
      <text transform="translate(12 160) rotate(-90)" textAnchor="middle" fontSize="11.5" fill="var(--faded)">
        actual
      </text>
      {[low, high].map((bound, index) => (
        <text
          key={index}
          x={index === 0 ? 40 : 310}
          y="303"
          textAnchor={index === 0 ? "start" : "end"}
          fontSize="10"
          fontFamily="var(--font-mono)"
          fill="var(--faded)"
        >
          {formatNumber(bound)}
        </text>
      ))}
    </svg>
  );
}
