"use client";
import { type MetricName } from "@/core/evaluate/metrics";
import type { TruthRow } from "@/store/truth";
import { useState } from "react";
import { HALF_WINDOW, type TruthModel } from "./truth-days";
import { TruthPlot } from "./truth-plot";
import { TruthTable } from "./truth-table";
import { Select } from "../select/select";
import { MetricSelect } from "../select/metric-select";

interface Props {
  readonly days: readonly TruthRow[];
  /** Deliveries of the newest file, which come before those that were. */
  readonly current: readonly string[];
  readonly models: readonly TruthModel[];
  readonly inService: number | null;
  /** Metrics that can be had from sums, the one that alerts go by first. */
  readonly metrics: readonly MetricName[];
}

/** Deliveries with past predictions, those of the newest file first. */
function deliveriesOf(days: readonly TruthRow[], current: readonly string[]): string[] {
  const known = new Set(days.map(({ delivery }) => delivery));
  return [
    ...current.filter((name) => known.has(name)),
    ...[...known].filter((name) => !current.includes(name)),
  ];
}

/** Versions with past predictions, the one in service first, then the newest. */
function versionsOf(
  days: readonly TruthRow[],
  models: readonly TruthModel[],
  inService: number | null,
): TruthModel[] {
  return [...new Set(days.map(({ modelId }) => modelId))]
    .flatMap((id) => models.find((model) => model.id === id) ?? [])
    .sort(
      (left, right) =>
        Number(right.id === inService) - Number(left.id === inService) || right.number - left.number,
    );
}

/** Live metrics of past predictions, by day and version, compared with the holdout. */
export function TruthView({ days, current, models, inService, metrics }: Props) {
  const [metric, setMetric] = useState<MetricName>(metrics[0]!);
  const deliveries = deliveriesOf(days, current);
  const [delivery, setDelivery] = useState(deliveries[0] ?? "");
  const own = days.filter((day) => day.delivery === delivery);
  const versions = versionsOf(own, models, inService);
  if (versions.length === 0) return null;
  const shown = { days: own, versions, metric, delivery };
  return (
    <section aria-label="Live against holdout" className="mt-8">
      <div className="flex flex-wrap items-end gap-x-5 gap-y-1">
        <h2>Live against holdout</h2>
        {deliveries.length > 1 && (
          <label className="text-caption text-faded">
            delivery{" "}
            <Select
              label="delivery"
              className="ml-1"
              value={delivery}
              options={deliveries}
              onChange={setDelivery}
            />
          </label>
        )}
        <label className="text-caption text-faded">
          metric{" "}
          <MetricSelect
            label="Metric"
            className="ml-1"
            value={metric}
            metrics={metrics}
            onChange={setMetric}
          />
        </label>
      </div>
      <p className="mb-2 text-caption text-faded">
        Live metrics by day of prediction, for predictions whose actual value has arrived. Each dot is a day,
        larger with more actuals; the line is the mean over {2 * HALF_WINDOW + 1} days. “Worse” and “better”
        are significant at 95 %, given the number of actuals.
      </p>
      <TruthPlot {...shown} />
      <TruthTable {...shown} inService={inService} />
    </section>
  );
}
