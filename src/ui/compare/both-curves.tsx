import { curveConfusions, type ScoreCurve } from "@/core/evaluate/score-curve";
import type { Comparison } from "@/runs/judging/compare";
import { Plot } from "../charts/plot";
import { pointsOf, type Series } from "../charts/series";
import { FALSE_POSITIVE_RATE, PRECISION, RECALL, TRUE_POSITIVE_RATE } from "../judge/curve-figures";
import { rocAndPrecision } from "../judge/curve-points";
import type { Side } from "./side";

type Pairs = readonly (readonly [number, number])[];
export type CurvedSide = Side & { readonly curve: ScoreCurve };

const [WIDTH, HEIGHT] = [400, 250];

const seriesOfBoth = (first: Side, second: Side, points: readonly [Pairs, Pairs]): Series[] => [
  { name: `version ${first.number}`, look: "first", points: pointsOf(points[0]) },
  { name: `version ${second.number}`, look: "second", points: pointsOf(points[1]) },
];

/** ROC and precision-recall curves of two trials. */
export function BothCurves({ first, second }: { readonly first: CurvedSide; readonly second: CurvedSide }) {
  const [one, other] = [first, second].map(({ curve }) => rocAndPrecision(curveConfusions(curve)));
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-4">
      <Plot
        title="ROC curves"
        x={FALSE_POSITIVE_RATE}
        y={TRUE_POSITIVE_RATE}
        series={seriesOfBoth(first, second, [one!.roc, other!.roc])}
        width={WIDTH}
        height={HEIGHT}
      />
      <Plot
        title="Precision-recall curves"
        x={RECALL}
        y={PRECISION}
        series={seriesOfBoth(first, second, [one!.precision, other!.precision])}
        width={WIDTH}
        height={HEIGHT}
      />
    </div>
  );
}

/** Of a number: the share of rows with an error up to a size. The curve further up and left errs less. */
export function BothErrors({
  first,
  second,
  errors,
}: {
  readonly first: Side;
  readonly second: Side;
  readonly errors: NonNullable<Comparison["errors"]>;
}) {
  return (
    <Plot
      title="Cumulative distribution of absolute error"
      x={{ title: "absolute error" }}
      y={{ title: "share of rows", domain: [0, 1], format: "share" }}
      series={seriesOfBoth(first, second, [errors.first, errors.second])}
      width={520}
      height={HEIGHT}
    />
  );
}
