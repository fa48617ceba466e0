"use client";
import { useState, type ReactNode } from "react";
import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import type { VersionHistory as History } from "@/server/version-history";
import { Plot } from "../charts/plot";
import { MetricSelect } from "../select/metric-select";
import { courseOf, metricsOfVersions, servicePeriods } from "./version-course";

/** Versions of a pipeline along time: the metric with its interval, and when each was in service. */
export function VersionHistory({
  versions,
  changes,
  now,
  children,
}: History & {
  /** What stands before the choice of a metric. */
  readonly children?: ReactNode;
}) {
  const metrics = metricsOfVersions(versions);
  const [chosen, setChosen] = useState<MetricName>();
  const metric = chosen && metrics.includes(chosen) ? chosen : metrics[0];
  if (metric === undefined) return null;
  const times = [...versions.map(({ at }) => at), ...changes.map(({ at }) => at), now];
  return (
    <div>
      <div className="mb-2 flex flex-wrap items-center gap-x-5 gap-y-2">
        {children}
        <label className="flex items-center gap-2 text-caption text-faded">
          metric
          <MetricSelect label="Metric of versions" value={metric} metrics={metrics} onChange={setChosen} />
        </label>
      </div>
      <Plot
        title="Versions over time"
        note="bars: in service"
        label={`${METRICS[metric].title} of each version on its holdout, by the time it was trained; bars at the foot say when a version was in service`}
        x={{ title: "trained as of", kind: "time", domain: [Math.min(...times), Math.max(...times)] }}
        y={{ title: METRICS[metric].title }}
        series={[courseOf(versions, metric)]}
        spans={servicePeriods(changes, now)}
        width={1700}
        height={210}
      />
    </div>
  );
}
