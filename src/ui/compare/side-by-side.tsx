"use client";
import { writeKey } from "@/core/pipeline/key-text";
import { formatNumber } from "@/core/format/numbers";
import { METRICS, metricsFor } from "@/core/evaluate/metrics";
import { ALGORITHM_NAMES, ALGORITHMS } from "@/core/learn/algorithms";
import { curveConfusions, type ScoreCurve } from "@/core/evaluate/score-curve";
import { ratesOf } from "@/core/evaluate/threshold";
import { formatFigure } from "@/core/evaluate/figure-notes";
import { className, type Task } from "@/core/learn/task";
import type { Comparison } from "@/runs/judging/compare";
import type { LearnedPart } from "@/server/learned";

import { LearnedTable } from "../basic/learned-table";
import { useFirst } from "../basic/use-first";
import { useRead } from "../basic/use-read";
import { LineChart } from "../charts/line-chart";
import { Key } from "../charts/training-chart";
import { PageLink } from "../basic/page-link";

/** Features that are shown at first. */
const FEW_FEATURES = 12;

/** What is told of each of two trials. */
export interface Side {
  readonly id: number;
  readonly number: number;
  readonly candidate: string;
  readonly file: number;
  readonly settings: Readonly<Record<string, unknown>>;
  readonly without: readonly string[];
  readonly curve: ScoreCurve | undefined;
  readonly importance: readonly { readonly column: string; readonly worse: number }[];
  readonly learned: readonly LearnedPart[];
}

/** Whether a side has the learner's default for a setting, or no such setting. */
function isStandard({ settings }: Side, name: string): boolean {
  const algorithm = ALGORITHM_NAMES.find((each) => each === settings["learner"]);
  const standard: Readonly<Record<string, unknown>> = algorithm
    ? ALGORITHMS[algorithm].settings.parse({})
    : {};
  return settings[name] === undefined || JSON.stringify(settings[name]) === JSON.stringify(standard[name]);
}

const settingText = (value: unknown): string =>
  typeof value === "string" ? value : (JSON.stringify(value) ?? "–");

/** Two trials side by side: settings, figures with the interval of their difference, curves, what matters to each, and rows on which they disagree. */
export function SideBySide({
  pipeline,
  task,
  first,
  second,
}: {
  readonly pipeline: string;
  readonly task: Task;
  readonly first: Side;
  readonly second: Side;
}) {
  const { value, failure, asking } = useRead<Comparison>(`/api/models/compare?a=${first.id}&b=${second.id}`);
  const names = [...new Set([...Object.keys(first.settings), ...Object.keys(second.settings)])].filter(
    (name) =>
      JSON.stringify(first.settings[name]) !== JSON.stringify(second.settings[name]) &&
      !(isStandard(first, name) && isStandard(second, name)),
  );
  const shown = (output: readonly number[]): string => {
    if (task.kind !== "classes") return formatNumber(output[0]);
    const best = output.reduce((most, each, index) => (each > output[most]! ? index : most), 0);
    return `${className(task, best)} ${formatNumber(output[best]!)}`;
  };
  const title = (side: Side): string =>
    `version ${side.number}, ${side.candidate}${side.without.length > 0 ? ` without ${side.without.join(", ")}` : ""}`;
  return (
    <section aria-label="Side by side" className="mt-8 space-y-5" data-testid="side-by-side">
      <h2>
        {title(first)} <span className="font-normal text-faded">against</span> {title(second)}
      </h2>
      {first.file !== second.file && (
        <p className="text-sm">
          <PageLink
            href={`/pipelines/${encodeURIComponent(pipeline)}/history?from=${first.file}&to=${second.file}`}
          >
            What changed in the file, from version {first.file} to {second.file}
          </PageLink>
        </p>
      )}
      {names.length > 0 && (
        <table className="sheet max-w-3xl">
          <thead>
            <tr>
              <th>Setting</th>
              <th>version {first.number}</th>
              <th>version {second.number}</th>
            </tr>
          </thead>
          <tbody>
            {names.map((name) => (
              <tr key={name}>
                <td>{name}</td>
                <td className="metric">{settingText(first.settings[name])}</td>
                <td className="metric">{settingText(second.settings[name])}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {asking && (
        <p className="text-faded" role="status">
          comparing rows …
        </p>
      )}
      {value && (
        <table className="sheet max-w-4xl" data-testid="differences">
          <thead>
            <tr>
              <th>On {formatNumber(value.rows)} common rows</th>
              <th className="number">version {first.number}</th>
              <th className="number">version {second.number}</th>
              <th className="number">Difference</th>
              <th className="number">95 % interval</th>
              <th>Result</th>
            </tr>
          </thead>
          <tbody>
            {metricsFor(task.kind).map((name) => {
              const [a, b] = [value.first[name], value.second[name]];
              const interval = value.differences[name];
              const sure = interval !== undefined && (interval[0] > 0 || interval[1] < 0);
              const better = sure && (METRICS[name].better === "high") === interval[0] > 0 ? second : first;
              return (
                <tr key={name}>
                  <td>{METRICS[name].title}</td>
                  <td className="number">{formatFigure(name, a)}</td>
                  <td className="number">{formatFigure(name, b)}</td>
                  <td className="number">
                    {typeof a === "number" && typeof b === "number"
                      ? `${b - a > 0 ? "+" : ""}${formatFigure(name, b - a)}`
                      : "–"}
                  </td>
                  <td className="number text-faded">
                    {interval
                      ? `${formatFigure(name, interval[0])} to ${formatFigure(name, interval[1])}`
                      : "–"}
                  </td>
                  <td>
                    {interval === undefined ? (
                      ""
                    ) : sure ? (
                      <span className="text-moss">version {better.number} is better</span>
                    ) : (
                      <span className="text-faded">no significant difference</span>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {value?.noIntervals && <p className="text-sm text-faded">{value.noIntervals}</p>}
      {first.curve && second.curve && (
        <Curves first={{ ...first, curve: first.curve }} second={{ ...second, curve: second.curve }} />
      )}
      {value?.errors && <Errors first={first} second={second} errors={value.errors} />}
      {(first.importance.length > 0 || second.importance.length > 0) && (
        <Matters first={first} second={second} />
      )}
      <section>
        <h3 className="font-semibold">Learned values</h3>
        <LearnedTable
          sides={[first, second].map((side) => ({ title: `version ${side.number}`, parts: side.learned }))}
        />
      </section>
      {value && value.disagreements.length > 0 && (
        <section>
          <h3 className="font-semibold">Rows with the largest disagreement</h3>
          <table className="sheet max-w-4xl">
            <thead>
              <tr>
                <th>Row</th>
                <th>Actual</th>
                <th>version {first.number} says</th>
                <th>version {second.number} says</th>
              </tr>
            </thead>
            <tbody>
              {value.disagreements.map((each) => (
                <tr key={writeKey(each.key)}>
                  <td className="metric">{each.key.join(", ")}</td>
                  <td>{task.kind === "number" ? formatNumber(each.answer) : className(task, each.answer)}</td>
                  <td className="metric">{shown(each.first)}</td>
                  <td className="metric">{shown(each.second)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </section>
  );
}

type CurvedSide = Side & { readonly curve: ScoreCurve };

function Curves({ first, second }: { readonly first: CurvedSide; readonly second: CurvedSide }) {
  const curve = (side: CurvedSide, at: "roc" | "precision"): [number, number][] => {
    const all = [...curveConfusions(side.curve)].reverse();
    if (at === "roc")
      return [
        [0, 0],
        ...all.map((each): [number, number] => [ratesOf(each).falseAlarmRate, ratesOf(each).recall]),
      ];
    return all
      .filter((each) => each.tp + each.fp > 0)
      .map((each): [number, number] => [ratesOf(each).recall, ratesOf(each).precision]);
  };
  const both = (at: "roc" | "precision") => [
    { name: `version ${first.number}`, points: curve(first, at), stroke: "var(--woad)" },
    { name: `version ${second.number}`, points: curve(second, at), stroke: "var(--madder)", dash: "6 3" },
  ];
  return (
    <div className="flex flex-wrap gap-x-8">
      <figure>
        <figcaption className="font-medium">Receiver operating characteristic</figcaption>
        <LineChart
          label="ROC curves of both"
          xName="false positive rate"
          yName="true positive rate"
          xDomain={[0, 1]}
          yDomain={[0, 1]}
          series={both("roc")}
          width={360}
          height={240}
        />
      </figure>
      <figure>
        <figcaption className="font-medium">Precision and recall</figcaption>
        <LineChart
          label="Precision-recall curves of both"
          xName="recall"
          yName="precision"
          xDomain={[0, 1]}
          yDomain={[0, 1]}
          series={both("precision")}
          width={360}
          height={240}
        />
      </figure>
      <p className="flex w-full gap-5 text-sm text-faded">
        <Key stroke="var(--woad)">version {first.number}</Key>
        <Key stroke="var(--madder)" dash="6 3">
          version {second.number}
        </Key>
      </p>
    </div>
  );
}

/** Of a number: how many rows have an error up to a size. The curve further up and left errs less. */
function Errors({
  first,
  second,
  errors,
}: {
  readonly first: Side;
  readonly second: Side;
  readonly errors: NonNullable<Comparison["errors"]>;
}) {
  const series = [
    { name: `version ${first.number}`, points: errors.first, stroke: "var(--woad)" },
    { name: `version ${second.number}`, points: errors.second, stroke: "var(--madder)", dash: "6 3" },
  ];
  const most = Math.max(...[...errors.first, ...errors.second].map(([size]) => size));
  return (
    <figure>
      <figcaption className="font-medium">Cumulative distribution of absolute error</figcaption>
      <LineChart
        label="Absolute errors of both"
        xName="absolute error"
        yName="share of rows"
        xDomain={[0, most]}
        yDomain={[0, 1]}
        series={series}
        width={480}
        height={240}
      />
      <p className="flex gap-5 text-sm text-faded">
        <Key stroke="var(--woad)">version {first.number}</Key>
        <Key stroke="var(--madder)" dash="6 3">
          version {second.number}
        </Key>
      </p>
    </figure>
  );
}

function Matters({ first, second }: { readonly first: Side; readonly second: Side }) {
  const most = Math.max(first.importance.length, second.importance.length);
  // Turn by turn, so that what matters most to either stands first.
  const ranked = Array.from({ length: most }, (_, rank) => [first.importance[rank], second.importance[rank]])
    .flat()
    .flatMap((found) => (found ? [found.column] : []));
  const { shown: columns, showAll } = useFirst([...new Set(ranked)], FEW_FEATURES, "features");
  const of = (side: Side, name: string): string =>
    formatNumber(side.importance.find((each) => each.column === name)?.worse);
  return (
    <section>
      <h3 className="font-semibold">Feature importance</h3>
      <table className="sheet max-w-3xl">
        <thead>
          <tr>
            <th>Feature</th>
            <th className="number">version {first.number}</th>
            <th className="number">version {second.number}</th>
          </tr>
        </thead>
        <tbody>
          {columns.map((name) => (
            <tr key={name}>
              <td>{name}</td>
              <td className="number">{of(first, name)}</td>
              <td className="number">{of(second, name)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {showAll}
    </section>
  );
}
