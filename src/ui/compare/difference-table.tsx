import { figureColumn } from "@/core/format/align-figures";
import { intervalColumn } from "@/core/format/align-intervals";
import { IntervalFigures, NumberCell } from "../basic/number-cell";
import { formatNumber } from "@/core/format/numbers";
import { formatFigure } from "@/core/evaluate/figure-notes";
import { METRICS, metricsFor, type MetricName } from "@/core/evaluate/metrics";
import type { Task } from "@/core/learn/task";
import type { Comparison } from "@/runs/judging/compare";
import type { Side } from "./side";
import { Sheet } from "../basic/sheet";

interface Props {
  readonly kind: Task["kind"];
  readonly found: Comparison;
  readonly first: Side;
  readonly second: Side;
}

/** Metrics of two trials on common rows, with the interval of their difference. */
export function DifferenceTable({ kind, found, first, second }: Props) {
  const names = metricsFor(kind);
  const before = figureColumn(names, (name) => formatFigure(name, found.first[name]));
  const after = figureColumn(names, (name) => formatFigure(name, found.second[name]));
  const change = figureColumn(names, (name) => difference(name, found.first[name], found.second[name]));
  const ends = intervalColumn(
    names,
    (name) => found.differences[name],
    (end, name) => formatFigure(name, end),
  );
  return (
    <Sheet className="max-w-4xl" data-testid="differences">
      <thead>
        <tr>
          <th>On {formatNumber(found.rows)} common rows</th>
          <th className="number">version {first.number}</th>
          <th className="number">version {second.number}</th>
          <th className="number">Difference</th>
          <th className="number">95 % interval</th>
          <th>Result</th>
        </tr>
      </thead>
      <tbody>
        {names.map((name) => {
          const interval = found.differences[name];
          return (
            <tr key={name}>
              <td>{METRICS[name].title}</td>
              <NumberCell figure={before(name)} />
              <NumberCell figure={after(name)} />
              <NumberCell figure={change(name)} />
              <IntervalFigures ends={ends(name)} word="to" />
              <td>{interval && <Verdict name={name} interval={interval} first={first} second={second} />}</td>
            </tr>
          );
        })}
      </tbody>
    </Sheet>
  );
}

function difference(
  name: MetricName,
  before: number | null | undefined,
  after: number | null | undefined,
): string {
  if (typeof before !== "number" || typeof after !== "number") return "–";
  return `${after > before ? "+" : ""}${formatFigure(name, after - before)}`;
}

/** Which of the two is better, where chance does not explain the difference. */
function Verdict({
  name,
  interval: [low, high],
  first,
  second,
}: {
  readonly name: MetricName;
  readonly interval: readonly [number, number];
  readonly first: Side;
  readonly second: Side;
}) {
  if (low <= 0 && high >= 0) return <span className="text-faded">no significant difference</span>;
  const better = (METRICS[name].better === "high") === low > 0 ? second : first;
  return <span className="text-moss">version {better.number} is better</span>;
}
