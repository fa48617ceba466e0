"use client";
import { formatNumber } from "@/core/format/numbers";
import { METRICS, metricsFor } from "@/core/evaluate/metrics";
import type { Task } from "@/core/learn/task";
import type { ModelSummary } from "@/store/models";
import { useQueryState } from "nuqs";
import { useState } from "react";
import { cellAxis, CellAxisHead } from "../charts/cell-axis";
import { baseOf, metricOf, rankedTrials } from "./trial-order";
import { trialColumns } from "./trial-columns";
import { TrialRow } from "./trial-row";
import { TrialTools } from "./trial-tools";
import { usePicked } from "./use-picked";
import { HiddenHead } from "../basic/hidden-head";

interface Props {
  readonly models: readonly ModelSummary[];
  readonly kind: Task["kind"];
  readonly inService: number | null;
  /** Number of the file version behind each pipeline version. */
  readonly fileVersions: Readonly<Record<number, number>>;
  /** The versions that the page compares, or the one that was selected for that. */
  readonly compared: readonly number[];
}

/** All trials of a pipeline with their metrics and intervals. Two are selected to be compared. */
export function TrialTable({ models, kind, inService, fileVersions, compared }: Props) {
  const names = metricsFor(kind);
  const [picked, pick] = usePicked("pick", compared);
  const [wanted, setMetric] = useQueryState("metric", { defaultValue: names[0]! as string });
  const [search, setSearch] = useQueryState("search", { defaultValue: "" });
  const [starred, setStarred] = useState(false);
  const metric = names.find((name) => name === wanted) ?? names[0]!;
  const second = names.find((name) => name !== metric)!;
  const shown = rankedTrials(models, { search, starred }, metric);
  const base = baseOf(models, metric);
  const { title, better } = METRICS[metric];
  const axis = cellAxis({ title }, [
    base,
    ...shown.flatMap((model) => [metricOf(model, metric), ...(model.intervals?.[metric] ?? [])]),
  ]);
  const columns = trialColumns(shown, metric, second);
  return (
    <section aria-label="Trials">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2>Trials</h2>
        <TrialTools
          kind={kind}
          metric={metric}
          onMetric={(name) => void setMetric(name)}
          search={search}
          onSearch={(text) => void setSearch(text)}
          starred={starred}
          onStarred={setStarred}
        />
        <span className="text-caption text-faded">
          {picked.length === 2 ? "Two trials are compared below." : "Select two trials to compare them."}
        </span>
      </div>
      <div className="overflow-x-auto">
        <table className="sheet" data-testid="trials">
          <thead>
            <tr>
              <HiddenHead name="Selected" />
              <HiddenHead name="Star" />
              <th>Trial</th>
              <th className="number">{title}</th>
              <th className="number">95 % interval</th>
              <th>
                <CellAxisHead
                  axis={axis}
                  hint={better === "high" ? "higher is better →" : "← lower is better"}
                />
              </th>
              <th className="number">{METRICS[second].title}</th>
              <th className="number">Rows</th>
              <th className="number">Fit time</th>
              <th>Note</th>
              <HiddenHead name="Service" />
            </tr>
          </thead>
          <tbody>
            {shown.map((model) => (
              <TrialRow
                key={model.id}
                model={model}
                isInService={model.id === inService}
                file={fileVersions[model.pipelineVersionId]}
                metric={metric}
                columns={columns}
                axis={axis}
                base={base}
                isPicked={picked.includes(model.id)}
                onPick={() => pick(model.id)}
              />
            ))}
          </tbody>
        </table>
      </div>
      {base !== undefined && (
        <p className="mt-1 text-caption text-faded">
          The dashed line is the base rate: {title} {formatNumber(base)}, which predicts the same for every
          row.
        </p>
      )}
    </section>
  );
}
