"use client";
import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatDuration, formatNumber } from "@/core/format/numbers";
import { METRICS, isBetter, type Figures, type MetricName } from "@/core/evaluate/metrics";
import { settingName, settingText } from "@/core/format/setting-text";
import type { Choice } from "@/core/learn/search/space";
import { cellAxis, CellAxisHead } from "../charts/cell-axis";
import { IntervalCell } from "../charts/interval-cell";
import { useFirst } from "../basic/use-first";
import { Sheet } from "../basic/sheet";

/** Trials that are shown at first, the best of all. */
const FEW_TRIALS = 30;

interface Trial {
  readonly number: number;
  readonly choices: readonly Choice[];
  readonly folds: readonly Figures[];
  readonly score: number | null;
  readonly problem: string | null;
  readonly seconds: number;
}

/** Order of two trials: the better first, of equals the earlier, and those that failed last. */
function compareTrials(metric: MetricName, left: Trial, right: Trial): number {
  if (left.score === right.score) return left.number - right.number;
  if (left.score === null) return 1;
  if (right.score === null) return -1;
  return isBetter(metric, left.score, right.score) ? -1 : 1;
}

/** The metric in each fold that has one. */
const foldValues = ({ folds }: Trial, metric: MetricName): number[] =>
  folds.flatMap((fold) => (typeof fold[metric] === "number" ? [fold[metric]] : []));

/** The combinations a search has tried so far, the best first; dots are its folds. */
export function SearchRanking({
  trials,
  metric,
  most,
}: {
  readonly trials: readonly Trial[];
  readonly metric: MetricName;
  readonly most: number;
}) {
  const ranked = [...trials].sort((left, right) => compareTrials(metric, left, right));
  const { shown, showAll } = useFirst(ranked, FEW_TRIALS, "trials");
  const axis = cellAxis(
    { title: METRICS[metric].title },
    trials.flatMap((trial) => foldValues(trial, metric)),
  );
  const score = figureColumn(shown, (trial) => (trial.score === null ? "failed" : formatNumber(trial.score)));
  const time = figureColumn(shown, ({ seconds }) => formatDuration(seconds * 1000));
  const names = trials[0]?.choices ?? [];
  return (
    <section aria-label="Search progress">
      <h2>
        {trials.length} of up to {most} combinations tried
      </h2>
      <Sheet data-testid="ranking">
        <thead>
          <tr>
            <th className="number">Trial</th>
            {names.map((name, index) => (
              <th key={index}>{settingName(name)}</th>
            ))}
            <th className="number">{METRICS[metric].title}, mean of folds</th>
            <th>
              <CellAxisHead
                axis={axis}
                hint={METRICS[metric].better === "high" ? "higher is better →" : "← lower is better"}
              />
            </th>
            <th className="number">Time</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((trial) => (
            <tr key={trial.number}>
              <td className="number">{trial.number + 1}</td>
              {trial.choices.map((choice, index) => (
                <td key={index} className="figure">
                  {settingText(choice.value)}
                </td>
              ))}
              <NumberCell figure={score(trial)} className={trial.score === null ? "text-madder" : ""} />
              <td>
                {trial.score === null && (
                  <span className="block max-w-md text-caption text-madder">
                    {trial.problem ?? "No metric."}
                  </span>
                )}
                {trial.score !== null && (
                  <IntervalCell
                    axis={axis}
                    label={`${METRICS[metric].title} ${formatNumber(trial.score)}`}
                    value={trial.score}
                    parts={foldValues(trial, metric)}
                  />
                )}
              </td>
              <NumberCell figure={time(trial)} />
            </tr>
          ))}
        </tbody>
      </Sheet>
      {showAll}
    </section>
  );
}
