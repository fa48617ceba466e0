import { formatNumber } from "@/core/format/numbers";
import { formatFigure } from "@/core/evaluate/figure-notes";
import { METRICS, metricsFor, type Figures, type MetricName } from "@/core/evaluate/metrics";
import type { Intervals } from "@/core/evaluate/bootstrap";
import type { Task } from "@/core/learn/task";

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
  return (
    <table className="sheet" data-testid="figures">
      <thead>
        <tr>
          <th>Metric</th>
          <th className="number">{insideFolds ? "Cross-validation" : "Holdout"}</th>
          {unweighted && <th className="number">Unweighted</th>}
          <th className="number">95 % interval</th>
          <th className="number">Base rate</th>
          {training && <th className="number">Training rows</th>}
          {folds.length > 0 && <th className="number">Folds</th>}
          <th aria-label="Fold values" />
        </tr>
      </thead>
      <tbody>
        {metricsFor(kind).map((name) => {
          const interval = intervals[name];
          const parts = folds.flatMap((each) =>
            typeof each.figures[name] === "number" ? [each.figures[name]] : [],
          );
          return (
            <tr key={name}>
              <td>
                <span title={METRICS[name].about}>{METRICS[name].title}</span>{" "}
                <span className="text-xs text-faded">
                  {METRICS[name].better === "high" ? "higher is better" : "lower is better"}
                </span>
              </td>
              <td className="number" data-testid={METRICS[name].title}>
                {formatFigure(name, figures[name])}
              </td>
              {unweighted && <td className="number text-faded">{formatFigure(name, unweighted[name])}</td>}
              <td className="number text-faded">
                {interval ? `${formatFigure(name, interval[0])} – ${formatFigure(name, interval[1])}` : "–"}
              </td>
              <td className="number text-faded">{formatFigure(name, base[name])}</td>
              {training && <td className="number text-faded">{formatFigure(name, training[name])}</td>}
              {folds.length > 0 && (
                <td className="number text-faded">
                  {parts.length > 0
                    ? `${formatFigure(name, Math.min(...parts))} – ${formatFigure(name, Math.max(...parts))}`
                    : "–"}
                </td>
              )}
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
    </table>
  );
}

/** Value and interval on a line with the base rate (an open ring) and the folds (ticks). */
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
  const all = [value, base, ...(interval ?? []), ...folds].filter(
    (each): each is number => typeof each === "number",
  );
  if (all.length < 2 || typeof value !== "number") return null;
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const x = (each: number): number => 8 + (high > low ? (each - low) / (high - low) : 0.5) * 200;
  return (
    <svg width="216" height="16" role="img" aria-label={`${METRICS[name].title}: ${formatNumber(value)}`}>
      <line x1="8" x2="208" y1="8" y2="8" stroke="var(--weft)" />
      {interval && (
        <line
          x1={x(interval[0])}
          x2={x(interval[1])}
          y1="8"
          y2="8"
          stroke="var(--woad)"
          strokeWidth="3"
          opacity="0.6"
        />
      )}
      {folds.map((each, index) => (
        <line key={index} x1={x(each)} x2={x(each)} y1="4" y2="12" stroke="var(--plum)" />
      ))}
      {typeof base === "number" && <circle cx={x(base)} cy="8" r="3.5" fill="none" stroke="var(--faded)" />}
      <circle cx={x(value)} cy="8" r="3.5" fill="var(--woad)" />
    </svg>
  );
}
