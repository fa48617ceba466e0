import { formatNumber } from "@/core/format/numbers";
import { liftAt, type ScoreCurve } from "@/core/evaluate/score-curve";
import { Plot } from "../charts/plot";
import { pointsOf, type Series } from "../charts/series";
import { scoreShape } from "./score-shape";

const [WIDTH, HEIGHT] = [350, 240];

const diagonal = (name: string): Series => ({
  name,
  look: "reference",
  points: pointsOf([
    [0, 0],
    [1, 1],
  ]),
  silent: true,
});

/** Cumulative gain, calibration and the distribution of scores of a yes/no model on its holdout. */
export function ScoreCurves({ curve }: { readonly curve: ScoreCurve }) {
  const total = curve.positives + curve.negatives;
  const gain: [number, number][] = [
    [0, 0],
    ...curve.points.map(([, tp, fp]): [number, number] => [(tp + fp) / total, tp / curve.positives]),
  ];
  const calibration = curve.bins.map(({ mean, positives, rows }) => ({
    x: mean,
    y: positives / rows,
    note: `${formatNumber(rows)} rows`,
  }));
  const shape = scoreShape(curve);
  const size = { width: WIDTH, height: HEIGHT };
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-4">
      <Plot
        {...size}
        title="Cumulative gain"
        note={`top 10 %: ${formatNumber(liftAt(curve, 0.1))} × random`}
        x={{ title: "share of rows, highest score first", domain: [0, 1], format: "share" }}
        y={{ title: "share of positives", domain: [0, 1], format: "share" }}
        series={[{ name: "model", look: "first", points: pointsOf(gain) }, diagonal("random order")]}
      />
      <Plot
        {...size}
        title="Calibration"
        x={{ title: "predicted probability", domain: [0, 1] }}
        y={{ title: "observed share", domain: [0, 1] }}
        series={[
          { name: "model", look: "first", points: calibration, mark: "dotted line" },
          diagonal("perfect"),
        ]}
      />
      <Plot
        {...size}
        title="Score distribution"
        x={{ title: "predicted probability" }}
        y={{ title: "share of the class", format: "share" }}
        series={[
          { name: "positive", look: "second", points: pointsOf(shape.positive) },
          { name: "negative", look: "first", points: pointsOf(shape.negative) },
        ]}
      />
    </div>
  );
}
