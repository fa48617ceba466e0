"use client";
import { formatNumber, formatPart, formatShare, roundSignificant } from "@/core/format/numbers";
import { Slider } from "radix-ui";
import { useMemo } from "react";
import type { Figures } from "@/core/evaluate/metrics";
import { confusionAt, curveConfusions, type ScoreCurve } from "@/core/evaluate/score-curve";
import { ratesOf, type Confusion } from "@/core/evaluate/threshold";

import { ClassReportTable } from "./class-report-table";
import { PrecisionFigure, RocFigure } from "./curve-figures";
import { rocAndPrecision } from "./curve-points";
import { KeepThreshold, type DeliveryThreshold } from "./keep-threshold";
import { ThresholdRules } from "./threshold-rules";
import { useThreshold } from "./use-threshold";

interface Props {
  readonly curve: ScoreCurve;
  /** The same on training rows. */
  readonly training: ScoreCurve | undefined;
  readonly figures: Figures;
  readonly threshold: number;
  /** The pipeline whose deliveries can take a threshold; none of one that was deleted. */
  readonly pipeline: string | undefined;
  readonly deliveries: readonly DeliveryThreshold[];
}

/** Steps of the handle. */
const STEPS = 1000;
/** Scores that are nearer together than this fill the line by themselves. */
const NARROW = 0.1;

/** The thresholds that the handle covers. */
function rangeOf({ points }: ScoreCurve): readonly [number, number] {
  const [low, high] = [points.at(-1)?.[0] ?? 0, points[0]?.[0] ?? 1];
  return high - low >= NARROW || high === low ? [0, 1] : [low, high];
}

/** Curves on the holdout, and what a threshold means in rows, rates and cost. Dragging changes all of these at once; the AUC is of no threshold and stays. */
export function ThresholdDesk({
  curve,
  training,
  figures: metrics,
  threshold: first,
  pipeline,
  deliveries,
}: Props) {
  const [threshold, move, settle] = useThreshold(first);
  const all = useMemo(() => curveConfusions(curve), [curve]);
  const now = confusionAt(all, threshold);
  const [low, high] = rangeOf(curve);
  const rates = ratesOf(now);
  const curves = useMemo(() => rocAndPrecision(all), [all]);
  const trained = useMemo(() => training && rocAndPrecision(curveConfusions(training)), [training]);
  const base = (now.tp + now.fn) / Math.max(1, now.tp + now.fp + now.fn + now.tn);
  return (
    <section aria-label="Curves and threshold">
      <div className="grid grid-cols-1 gap-x-8 gap-y-4 xl:grid-cols-[auto_auto_1fr]">
        <RocFigure
          label="ROC curve"
          figure={metrics.auc}
          points={curves.roc}
          training={trained?.roc}
          marker={[rates.falseAlarmRate, rates.recall]}
        />
        <PrecisionFigure
          label="Precision-recall curve"
          figure={metrics.average_precision}
          points={curves.precision}
          training={trained?.precision}
          base={base}
          marker={[rates.recall, rates.precision]}
        />
        <div className="min-w-0">
          <div className="flex items-baseline justify-between">
            <span className="font-medium" id="threshold-label">
              Threshold
            </span>
            <output className="figure text-section" data-testid="threshold">
              {formatNumber(now.threshold)}
            </output>
          </div>
          <Slider.Root
            className="relative mt-2 flex h-5 w-full touch-none items-center"
            value={[Math.min(high, Math.max(low, threshold))]}
            min={low}
            max={high}
            step={(high - low) / STEPS}
            onValueChange={([value]) => move(roundSignificant(value ?? first, 6))}
            onValueCommit={([value]) => settle(roundSignificant(value ?? first, 6))}
          >
            <Slider.Track className="relative h-[3px] grow bg-rule">
              <Slider.Range className="absolute h-full bg-madder" />
            </Slider.Track>
            <Slider.Thumb
              aria-labelledby="threshold-label"
              aria-valuetext={formatNumber(now.threshold)}
              className="block h-4 w-2.5 rounded-sm border-2 border-madder bg-paper"
            />
          </Slider.Root>
          <Counts now={now} />
          <dl className="mt-3 grid grid-cols-2 gap-x-6 gap-y-1" data-testid="rates">
            <Rate name="Recall" value={rates.recall} help="positive rows that are flagged" />
            <Rate name="Precision" value={rates.precision} help="flagged rows that are positive" />
            <Rate name="False alarms" value={rates.falseAlarmRate} help="negative rows that are flagged" />
            <Rate name="Accuracy" value={rates.accuracy} help="rows that are classified correctly" />
            <Rate name="F1" value={rates.f1} help="harmonic mean of precision and recall" />
            <Rate
              name="Flagged"
              value={(now.tp + now.fp) / Math.max(1, now.tp + now.fp + now.fn + now.tn)}
              help="rows that are flagged"
            />
          </dl>
          <ThresholdRules all={all} now={now} onThreshold={settle} />
          {pipeline !== undefined && (
            <KeepThreshold pipeline={pipeline} deliveries={deliveries} threshold={now.threshold} />
          )}
        </div>
      </div>
      <div className="mt-4 max-w-2xl">
        <h3 className="mb-1 font-medium">Classification report at this threshold</h3>
        <ClassReportTable
          matrix={[
            [now.tp, now.fn],
            [now.fp, now.tn],
          ]}
          classes={["positive", "negative"]}
        />
      </div>
    </section>
  );
}

function Rate({
  name,
  value,
  help,
}: {
  readonly name: string;
  readonly value: number;
  readonly help: string;
}) {
  return (
    <div className="flex items-baseline justify-between border-b border-weft" title={help}>
      <dt className="text-faded">{name}</dt>
      <dd className="figure">{formatShare(value)}</dd>
    </div>
  );
}

function Counts({ now }: { readonly now: Confusion }) {
  const total = now.tp + now.fp + now.fn + now.tn;
  const cell = (value: number, right: boolean, id: string) => (
    <td className={`border border-rule px-3 py-1.5 text-right ${right ? "bg-paper" : ""}`}>
      <span className="figure text-body" data-testid={id}>
        {formatNumber(value)}
      </span>
      <br />
      <span className="text-caption text-faded">
        {formatPart(value, total)}
        {right ? "" : ", wrong"}
      </span>
    </td>
  );
  return (
    <table className="mt-3 w-full border-collapse text-caption" aria-label="Confusion counts">
      <thead>
        <tr>
          <td />
          <th className="px-2 pb-1 text-right font-medium text-faded">flagged</th>
          <th className="px-2 pb-1 text-right font-medium text-faded">not flagged</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th className="pr-2 text-left font-medium text-faded">positive</th>
          {cell(now.tp, true, "tp")}
          {cell(now.fn, false, "fn")}
        </tr>
        <tr>
          <th className="pr-2 text-left font-medium text-faded">negative</th>
          {cell(now.fp, false, "fp")}
          {cell(now.tn, true, "tn")}
        </tr>
      </tbody>
    </table>
  );
}
