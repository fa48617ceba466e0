import { METRIC_NAMES, METRICS, type MetricName } from "@/core/evaluate/metrics";
import { formatNumber } from "@/core/format/numbers";
import type { CourseVersion, ServiceChange } from "@/server/version-history";
import type { Span } from "../charts/span-mark";
import type { Series } from "../charts/series";

/** Metrics that any of the versions has. */
export const metricsOfVersions = (versions: readonly CourseVersion[]): MetricName[] =>
  METRIC_NAMES.filter((name) => versions.some(({ metrics }) => typeof metrics[name] === "number"));

/**
 * When each version was in service.
 *
 * @param changes in any order
 * @param now milliseconds since 1970; the last period reaches to it
 * @returns periods in the order of time
 */
export function servicePeriods(changes: readonly ServiceChange[], now: number): Span[] {
  const sorted = [...changes].sort((left, right) => left.at - right.at);
  return sorted.flatMap(({ version, at }, place) =>
    version === null ? [] : [{ label: `version ${version}`, from: at, to: sorted[place + 1]?.at ?? now }],
  );
}

/** What is said of a version beside its metric. */
function noteOf(version: CourseVersion, metric: MetricName): string {
  const interval = version.intervals?.[metric];
  return [
    interval ? `(95 %: ${formatNumber(interval[0])} to ${formatNumber(interval[1])})` : "",
    `version ${version.number}, ${version.candidate}`,
  ].join(" ");
}

/** The versions that have a metric, each with its interval, in the order of time. */
export function courseOf(versions: readonly CourseVersion[], metric: MetricName): Series {
  const points = versions.flatMap((version) => {
    const value = version.metrics[metric];
    const interval = version.intervals?.[metric];
    if (typeof value !== "number") return [];
    return [
      {
        x: version.at,
        y: value,
        label: String(version.number),
        note: noteOf(version, metric),
        ...(interval ? { low: interval[0], high: interval[1] } : {}),
      },
    ];
  });
  return {
    name: METRICS[metric].title,
    look: "first",
    mark: "dots",
    points: points.sort((left, right) => left.x - right.x),
  };
}
