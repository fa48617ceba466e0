import { figureColumn } from "@/core/format/align-figures";
import { intervalColumn } from "@/core/format/align-intervals";
import { IntervalFigures, NumberCell } from "../basic/number-cell";
import { formatNumber } from "@/core/format/numbers";
import { formatFigure } from "@/core/evaluate/figure-notes";
import { METRICS, metricsFor, type Figures, type MetricName } from "@/core/evaluate/metrics";
import type { Intervals } from "@/core/evaluate/bootstrap";
import type { Task } from "@/core/learn/task";
import { cellAxis } from "../charts/cell-axis";
import { IntervalCell } from "../charts/interval-cell";
import { Sheet } from "../basic/sheet";

interface Props {
  readonly kind: Task["kind"];
  readonly figures: Figures;
  readonly intervals: Intervals;
  /** The same with every row counting once, where rows have weights. */
  readonly unweighted?: Figures;
  /** Figures of the base rate on the same rows. */
  readonly base: Figures;
  readonly folds: readonly { readonly fold: number; readonly rows: number; readonly figures: Figures }[];
  /** The same figures on training rows. */
  readonly training: Figures | undefined;
  /** Whether rows were judged inside folds. */
  readonly insideFolds: boolean;
}

/** Figures on the holdout with the interval that chance leaves, beside the base rate and the folds. The line shows where they lie. */
export function FigureTable({
  kind,
  figures,
  unweighted,
  intervals,
  base,
  folds,
  training,
  insideFolds,
}: Props) {
  const names = metricsFor(kind);
  const columnOf = (found: Figures | undefined) =>
    figureColumn(names, (name) => formatFigure(name, found?.[name]));
  const held = columnOf(figures);
  const plain = columnOf(unweighted);
  const rate = columnOf(base);
  const learned = columnOf(training);
  const partsOf = (name: MetricName): number[] =>
    folds.flatMap((fold) => (typeof fold.figures[name] === "number" ? [fold.figures[name]] : []));
  const write = (end: number, name: MetricName): string => formatFigure(name, end);
  const ends = intervalColumn(names, (name) => intervals[name], write);
  const ofFolds = intervalColumn(
    names,
    (name) =>
      partsOf(name).length > 0 ? [Math.min(...partsOf(name)), Math.max(...partsOf(name))] : undefined,
    write,
  );
  return (
    <Sheet data-testid="figures">
      <thead>
        <tr>
          <th>Metric</th>
          <th className="number">{insideFolds ? "Cross-validation" : "Holdout"}</th>
          {unweighted && <th className="number">Unweighted</th>}
          <th className="number">95 % interval</th>
          <th className="number">Base rate</th>
          {training && <th className="number">Training rows</th>}
          {folds.length > 0 && <th className="number">Folds</th>}
          <th className="font-normal text-faded">● holdout ○ base rate | folds</th>
        </tr>
      </thead>
      <tbody>
        {names.map((name) => {
          const interval = intervals[name];
          const parts = partsOf(name);
          return (
            <tr key={name}>
              <td>
                <span title={METRICS[name].about}>{METRICS[name].title}</span>{" "}
                <span className="text-caption text-faded">
                  {METRICS[name].better === "high" ? "higher is better" : "lower is better"}
                </span>
              </td>
              <NumberCell figure={held(name)} testId={METRICS[name].title} />
              {unweighted && <NumberCell figure={plain(name)} className="text-faded" />}
              <IntervalFigures ends={ends(name)} />
              <NumberCell figure={rate(name)} className="text-faded" />
              {training && <NumberCell figure={learned(name)} className="text-faded" />}
              {folds.length > 0 && <IntervalFigures ends={ofFolds(name)} />}
              <td className="w-56">
                <Range
                  name={name}
                  value={figures[name]}
                  interval={interval}
                  base={base[name]}
                  folds={parts}
                />
              </td>
            </tr>
          );
        })}
      </tbody>
    </Sheet>
  );
}

/** Value, interval, base rate (a ring) and folds (strokes) on an axis of the metric's own. */
function Range({
  name,
  value,
  interval,
  base,
  folds,
}: {
  readonly name: MetricName;
  readonly value: number | null | undefined;
  readonly interval: readonly [number, number] | undefined;
  readonly base: number | null | undefined;
  readonly folds: readonly number[];
}) {
  const { title } = METRICS[name];
  const all = [value, base, ...(interval ?? []), ...folds];
  if (all.filter((value) => typeof value === "number").length < 2) return null;
  return (
    <IntervalCell
      axis={cellAxis({ title }, all)}
      label={`${title}: ${formatNumber(value)}`}
      value={value}
      interval={interval}
      parts={folds}
      other={base}
    />
  );
}
