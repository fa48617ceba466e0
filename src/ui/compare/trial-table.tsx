"use client";
import { formatDuration, formatNumber, formatShare } from "@/core/format/numbers";
import { Star, TriangleAlert } from "lucide-react";
import { someOf } from "@/core/format/some-names";
import { useQueryState } from "nuqs";
import { useState } from "react";
import { toast } from "sonner";
import { METRICS, metricsFor, isBetter, type MetricName } from "@/core/evaluate/metrics";
import type { Task } from "@/core/learn/task";
import { remark } from "@/server/training-actions";
import type { ModelSummary } from "@/store/models";
import { moment } from "../basic/format";
import { ServiceButton } from "../deliver/service-button";
import { useTyped } from "../basic/use-typed";
import { PageLink } from "../basic/page-link";
import { usePageRefresh } from "../basic/page-refresh";
import { usePicked } from "./use-picked";

interface Props {
  readonly models: readonly ModelSummary[];
  readonly kind: Task["kind"];
  readonly inService: number | null;
  /** Number of the file version behind each pipeline version. */
  readonly fileVersions: Readonly<Record<number, number>>;
  /** The versions that the page sets side by side, or the one that was picked for that. */
  readonly compared: readonly number[];
}

/** Words of a trial that searching looks through. */
const wordsOf = (model: ModelSummary): string =>
  [
    model.candidate,
    model.data.algorithm ?? "",
    model.note ?? "",
    `version ${model.number}`,
    JSON.stringify(model.data.settings ?? {}),
    ...(model.data.without ?? []),
  ]
    .join(" ")
    .toLowerCase();

/** All trials of a pipeline with their figures and intervals. Two are picked to be set side by side. */
export function TrialTable({ models, kind, inService, fileVersions, compared }: Props) {
  const [picked, pick] = usePicked("pick", compared);
  const [metric, setMetric] = useQueryState("metric", { defaultValue: metricsFor(kind)[0]! as string });
  const [search, setSearch] = useQueryState("search", { defaultValue: "" });
  const [starred, setStarred] = useState(false);
  const chosen = (metricsFor(kind).find((each) => each === metric) ?? metricsFor(kind)[0]!) as MetricName;
  const second = metricsFor(kind).find((each) => each !== chosen)!;
  const value = (model: ModelSummary): number | undefined => {
    const found = model.metrics[chosen];
    return typeof found === "number" ? found : undefined;
  };
  const shown = models
    .filter((each) => wordsOf(each).includes(search.toLowerCase()) && (!starred || each.starred))
    .sort((left, right) => {
      const [a, b] = [value(left), value(right)];
      return a === undefined
        ? 1
        : b === undefined
          ? -1
          : a === b
            ? right.number - left.number
            : isBetter(chosen, a, b)
              ? -1
              : 1;
    });
  const bases = models.flatMap((each) => {
    const found = each.base?.[chosen];
    return typeof found === "number" ? [found] : [];
  });
  const all = [
    ...bases.slice(0, 1),
    ...shown.flatMap((each) => [value(each), ...(each.intervals?.[chosen] ?? [])]),
  ].filter((each): each is number => typeof each === "number");
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const x = (each: number): number => 5 + (high > low ? (each - low) / (high - low) : 0.5) * 190;
  return (
    <section aria-label="Trials">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2>Trials</h2>
        <input
          type="search"
          aria-label="Search trials"
          placeholder="candidate, setting, note"
          className="field w-52"
          value={search}
          onChange={(event) => void setSearch(event.target.value)}
        />
        <label className="flex items-center gap-2 text-sm text-faded">
          ranked by
          <select
            aria-label="Ranked by"
            className="field text-ink"
            value={chosen}
            onChange={(event) => void setMetric(event.target.value)}
          >
            {metricsFor(kind).map((name) => (
              <option key={name} value={name}>
                {METRICS[name].title}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1.5 text-sm text-faded">
          <input type="checkbox" checked={starred} onChange={(event) => setStarred(event.target.checked)} />
          starred only
        </label>
        <span className="text-sm text-faded">
          {picked.length === 2 ? "Two trials are compared below." : "Select two trials to compare them."}
        </span>
      </div>
      <div className="overflow-x-auto">
        <table className="sheet" data-testid="trials">
          <thead>
            <tr>
              <th aria-label="Selected" />
              <th aria-label="Star" />
              <th>Trial</th>
              <th className="number">{METRICS[chosen].title}</th>
              <th className="number">95 % interval</th>
              <th>{METRICS[chosen].better === "high" ? "higher is better →" : "← lower is better"}</th>
              <th className="number">{METRICS[second].title}</th>
              <th className="number">Rows</th>
              <th className="number">Fit time</th>
              <th>Note</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {shown.map((model) => {
              const at = value(model);
              const interval = model.intervals?.[chosen];
              return (
                <tr key={model.id} className={picked.includes(model.id) ? "bg-paper" : ""}>
                  <td>
                    <input
                      type="checkbox"
                      aria-label={`Pick version ${model.number}`}
                      checked={picked.includes(model.id)}
                      onChange={() => pick(model.id)}
                    />
                  </td>
                  <td>
                    <StarButton model={model.id} starred={model.starred} />
                  </td>
                  <td className="min-w-56">
                    <PageLink className="font-medium" href={`/models/${model.id}`}>
                      version {model.number}
                    </PageLink>{" "}
                    {model.candidate}
                    {(model.data.without ?? []).length > 0 && (
                      <span className="text-plum"> without {model.data.without!.join(", ")}</span>
                    )}
                    {model.id === inService && (
                      <span className="ml-2 border-b-2 border-moss text-sm text-moss">in service</span>
                    )}
                    {(model.findings ?? []).some((each) => each.feature !== undefined) && (
                      <PageLink
                        href={`/models/${model.id}`}
                        className="ml-2 text-sm text-madder"
                        title={model.findings!.map((each) => each.message).join("\n")}
                      >
                        <TriangleAlert size={13} className="mr-0.5 inline" aria-hidden />
                        suspect:{" "}
                        {someOf([...new Set(model.findings!.flatMap((each) => each.feature ?? []))], 2)}
                      </PageLink>
                    )}
                    <span className="block text-xs text-faded">
                      {settingsOf(model)}
                      {model.engine === "warehouse" ? "rows stayed" : "rows streamed"}; file version{" "}
                      {fileVersions[model.pipelineVersionId] ?? "?"}; {moment(model.createdAt)}
                    </span>
                  </td>
                  <td className="number">{formatNumber(at)}</td>
                  <td className="number text-faded">
                    {interval ? `${formatNumber(interval[0])} – ${formatNumber(interval[1])}` : "–"}
                  </td>
                  <td>
                    <svg
                      width="200"
                      height="16"
                      role="img"
                      aria-label={`${METRICS[chosen].title} ${formatNumber(at)}`}
                    >
                      {bases[0] !== undefined && (
                        <line
                          x1={x(bases[0])}
                          x2={x(bases[0])}
                          y1="0"
                          y2="16"
                          stroke="var(--faded)"
                          strokeDasharray="3 2"
                        />
                      )}
                      {interval && (
                        <line
                          x1={x(interval[0])}
                          x2={x(interval[1])}
                          y1="8"
                          y2="8"
                          stroke="var(--woad)"
                          strokeWidth="3"
                          opacity="0.55"
                        />
                      )}
                      {at !== undefined && <circle cx={x(at)} cy="8" r="3.5" fill="var(--woad)" />}
                    </svg>
                  </td>
                  <td className="number">{formatNumber(model.metrics[second])}</td>
                  <td className="number">{formatNumber(model.data.trainingRows)}</td>
                  <td className="number">
                    {model.fitSeconds === null ? "–" : formatDuration(model.fitSeconds * 1000)}
                  </td>
                  <td>
                    <Note model={model.id} note={model.note ?? ""} />
                  </td>
                  <td className="text-right">
                    <ServiceButton
                      model={model.id}
                      version={model.number}
                      inService={model.id === inService}
                      quiet
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {bases[0] !== undefined && (
        <p className="mt-1 text-sm text-faded">
          The dashed line is the base rate: {METRICS[chosen].title} {formatNumber(bases[0])}, which predicts
          the same for every row.
        </p>
      )}
    </section>
  );
}

/** Settings that say something, in one line. */
function settingsOf(model: ModelSummary): string {
  const quiet = new Set([
    "most_levels",
    "tolerance",
    "most_passes",
    "sample_rows",
    "reference",
    "bins",
    "seed",
    "validation_share",
    "stop_after",
    "least_gain",
    "missing",
    "balance",
    "epochs",
    "batch",
  ]);
  const told = Object.entries(model.data.settings ?? {})
    .filter(([name]) => !quiet.has(name))
    .map(
      ([name, value]) => `${name} ${typeof value === "number" ? formatNumber(value) : JSON.stringify(value)}`,
    );
  return `${someOf(told, 4)}${told.length > 0 ? "; " : ""}${model.data.share === undefined ? "" : `${formatShare(model.data.share)} of the rows; `}`;
}

function StarButton({ model, starred }: { readonly model: number; readonly starred: boolean }) {
  const refresh = usePageRefresh();
  const press = async (): Promise<void> => {
    const outcome = await remark({ model, starred: !starred });
    if (outcome.ok) refresh();
    else toast.error(outcome.problems[0]?.message ?? "The star could not be saved.");
  };
  return (
    <button
      type="button"
      aria-label={starred ? "Remove star" : "Add star"}
      aria-pressed={starred}
      onClick={() => void press()}
    >
      <Star
        size={15}
        fill={starred ? "var(--weld)" : "none"}
        className={starred ? "text-weld" : "text-faded"}
        aria-hidden
      />
    </button>
  );
}

function Note({ model, note }: { readonly model: number; readonly note: string }) {
  const { text, setText, take } = useTyped(
    note,
    (value) =>
      void remark({ model, note: value }).then((outcome) => {
        if (!outcome.ok) toast.error(outcome.problems[0]?.message ?? "The note could not be saved.");
      }),
    900,
  );
  return (
    <input
      aria-label="Note"
      className="w-36 border-b border-transparent bg-transparent text-sm hover:border-rule focus:border-ink"
      placeholder="note"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => take()}
    />
  );
}
