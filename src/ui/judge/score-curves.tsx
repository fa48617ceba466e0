import { formatNumber } from "@/core/format/numbers";
import { liftAt, type ScoreCurve } from "@/core/evaluate/score-curve";
import { LineChart } from "../charts/line-chart";
import { Key } from "../charts/training-chart";

/** Parts of the range of scores in which rows are counted. */
const PARTS = 40;

/** Share of each answer's rows in equal parts of the range of scores. */
function shapeOf({ points, positives, negatives }: ScoreCurve): {
  readonly positive: [number, number][];
  readonly negative: [number, number][];
} {
  const [low, high] = [points.at(-1)?.[0] ?? 0, points[0]?.[0] ?? 1];
  const width = (high - low) / PARTS || 1;
  const counts = Array.from({ length: PARTS }, () => [0, 0]);
  points.forEach(([score, tp, fp], index) => {
    const [, before, others] = points[index - 1] ?? [0, 0, 0];
    const part = counts[Math.min(PARTS - 1, Math.floor((score - low) / width))]!;
    part[0]! += tp - before;
    part[1]! += fp - others;
  });
  const shares = (place: 0 | 1, all: number): [number, number][] =>
    counts.map((each, part) => [low + (part + 0.5) * width, all > 0 ? each[place]! / all : 0]);
  return { positive: shares(0, positives), negative: shares(1, negatives) };
}

/** Lift, calibration and the distribution of scores of a yes/no model on its holdout. */
export function ScoreCurves({ curve }: { readonly curve: ScoreCurve }) {
  const total = curve.positives + curve.negatives;
  const gain: [number, number][] = [
    [0, 0],
    ...curve.points.map(([, tp, fp]): [number, number] => [(tp + fp) / total, tp / curve.positives]),
  ];
  const calibration = curve.bins.map((each): [number, number] => [each.mean, each.positives / each.rows]);
  const shape = shapeOf(curve);
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-4">
      <figure>
        <figcaption className="font-medium">Cumulative gain</figcaption>
        <LineChart
          label="Cumulative gain"
          xName="share of rows, highest score first"
          yName="share of positives"
          xDomain={[0, 1]}
          yDomain={[0, 1]}
          width={340}
          height={230}
          series={[
            {
              name: "random order",
              points: [
                [0, 0],
                [1, 1],
              ],
              stroke: "var(--rule)",
              dash: "4 4",
            },
            { name: "model", points: gain, stroke: "var(--moss)" },
          ]}
        />
        <p className="text-sm text-faded">
          The top 10 % contains {formatNumber(liftAt(curve, 0.1))} times as many positives as random order.
        </p>
      </figure>
      <figure>
        <figcaption className="font-medium">Calibration</figcaption>
        <LineChart
          label="Calibration"
          xName="predicted probability"
          yName="observed share"
          xDomain={[0, 1]}
          yDomain={[0, 1]}
          width={340}
          height={230}
          series={[
            {
              name: "perfect",
              points: [
                [0, 0],
                [1, 1],
              ],
              stroke: "var(--rule)",
              dash: "4 4",
            },
            { name: "model", points: calibration, stroke: "var(--woad)", dots: true },
          ]}
        />
      </figure>
      <figure>
        <figcaption className="font-medium">Score distribution</figcaption>
        <LineChart
          label="Distribution of scores"
          xName="probability"
          yName="share of the class"
          width={340}
          height={230}
          series={[
            {
              name: "negative",
              points: shape.negative,
              stroke: "var(--faded)",
              dash: "5 3",
            },
            {
              name: "positive",
              points: shape.positive,
              stroke: "var(--madder)",
            },
          ]}
        />
        <p className="flex gap-4 text-sm text-faded">
          <Key stroke="var(--madder)">positive</Key>
          <Key stroke="var(--faded)" dash="5 3">
            negative
          </Key>
        </p>
      </figure>
    </div>
  );
}
