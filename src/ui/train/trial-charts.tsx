"use client";
import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import { formatNumber } from "@/core/format/numbers";
import { Plot } from "../charts/plot";
import { bestTrial, courseOfSearch, settingPlot, type ScoredTrial } from "./trial-series";

/** Pixels of a chart, and of the small ones for each setting. */
const [HEIGHT, SMALL_HEIGHT] = [190, 170];

/** A search as it goes: every trial in order with the best so far, and against each setting. */
export function TrialCharts({
  trials,
  metric,
  most,
}: {
  readonly trials: readonly ScoredTrial[];
  readonly metric: MetricName;
  /** Trials that the search makes at most. */
  readonly most: number;
}) {
  const best = bestTrial(trials, metric);
  if (!best) return null;
  const title = METRICS[metric].title;
  return (
    <section aria-label="Trials of the search" className="mt-4">
      <Plot
        {...courseOfSearch(trials, metric, most)}
        title="Trials in order"
        note={`best: trial ${best.number + 1}, ${title} ${formatNumber(best.score)}`}
        width={900}
        height={HEIGHT}
      />
      <div className="mt-3 grid grid-cols-2 gap-x-4 gap-y-3">
        {best.choices.map((choice, place) => (
          <Plot
            key={`${choice.step ?? ""} ${choice.setting}`}
            {...settingPlot(trials, metric, place)}
            width={440}
            height={SMALL_HEIGHT}
          />
        ))}
      </div>
    </section>
  );
}
