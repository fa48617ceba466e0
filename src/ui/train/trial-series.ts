import { METRICS, isBetter, type MetricName } from "@/core/evaluate/metrics";
import { settingName, settingText } from "@/core/format/setting-text";
import type { Choice } from "@/core/learn/search/space";
import type { AxisSpec } from "../charts/scale";
import type { Point, Series } from "../charts/series";

export interface ScoredTrial {
  readonly number: number;
  readonly choices: readonly Choice[];
  readonly score: number | null;
}

/** A chart of the trials of a search. */
export interface TrialPlot {
  readonly title: string;
  readonly x: AxisSpec;
  readonly y: AxisSpec;
  readonly series: readonly Series[];
  readonly marker: readonly [number, number] | undefined;
}

/** Values that span more than this factor are shown on a logarithmic axis. */
const WIDE = 20;

/** Trials that have a score. */
const scoredOf = (trials: readonly ScoredTrial[]): (ScoredTrial & { readonly score: number })[] =>
  trials.flatMap((trial) => (trial.score === null ? [] : [{ ...trial, score: trial.score }]));

/** The best trial so far; of equals the earlier. */
export function bestTrial(
  trials: readonly ScoredTrial[],
  metric: MetricName,
): (ScoredTrial & { readonly score: number }) | undefined {
  return scoredOf(trials).reduce<(ScoredTrial & { readonly score: number }) | undefined>(
    (best, trial) => (best && !isBetter(metric, trial.score, best.score) ? best : trial),
    undefined,
  );
}

/** The scores in the order of the search, with the best so far as a line. */
export function courseOfSearch(trials: readonly ScoredTrial[], metric: MetricName, most: number): TrialPlot {
  const scored = scoredOf(trials);
  const best: Point[] = [];
  for (const { number, score } of scored) {
    const before = best.at(-1)?.y;
    best.push({
      x: number + 1,
      y: before !== undefined && !isBetter(metric, score, before) ? before : score,
    });
  }
  const top = bestTrial(trials, metric);
  return {
    title: "Trials in order",
    x: { title: "trial", whole: true, domain: [1, Math.max(2, most)] },
    y: { title: METRICS[metric].title },
    series: [
      { name: "best so far", look: "second", points: best, mark: "steps" },
      {
        name: "trial",
        look: "first",
        points: scored.map(({ number, score }) => ({ x: number + 1, y: score })),
        mark: "dots",
      },
    ],
    marker: top && [top.number + 1, top.score],
  };
}

/** An axis for the values of a setting, and where each value lies on it. */
function axisOfValues(
  title: string,
  values: readonly unknown[],
): readonly [AxisSpec, (value: unknown) => number] {
  const numbers = values.filter((value): value is number => typeof value === "number");
  if (numbers.length > 0 && numbers.length === values.length) {
    const [low, high] = [Math.min(...numbers), Math.max(...numbers)];
    const kind = low > 0 && high / low > WIDE ? "log" : "linear";
    return [{ title, kind, exact: false, whole: numbers.every(Number.isInteger) }, Number];
  }
  const names = [...new Set(values.map(settingText))].sort();
  return [{ title, names }, (value) => names.indexOf(settingText(value))];
}

/** The scores against the values of one setting. @param place which of the choices */
export function settingPlot(trials: readonly ScoredTrial[], metric: MetricName, place: number): TrialPlot {
  const scored = scoredOf(trials);
  const choice = scored[0]?.choices[place];
  const title = choice ? settingName(choice) : "";
  const [axis, placeOf] = axisOfValues(
    title,
    scored.map(({ choices }) => choices[place]?.value),
  );
  const at = (trial: ScoredTrial): number => placeOf(trial.choices[place]?.value);
  const top = bestTrial(trials, metric);
  return {
    title,
    x: axis,
    y: { title: METRICS[metric].title },
    series: [
      {
        name: "trial",
        look: "first",
        points: scored
          .map((trial) => ({ x: at(trial), y: trial.score, note: `trial ${trial.number + 1}` }))
          .sort((left, right) => left.x - right.x),
        mark: "dots",
      },
    ],
    marker: top && [at(top), top.score],
  };
}
