import { metricsFor, type MetricName } from "@/core/evaluate/metrics";
import type { Task } from "@/core/learn/task";
import { MetricSelect } from "../select/metric-select";

interface Props {
  readonly kind: Task["kind"];
  readonly metric: MetricName;
  readonly onMetric: (metric: string) => void;
  readonly search: string;
  readonly onSearch: (search: string) => void;
  readonly starred: boolean;
  readonly onStarred: (starred: boolean) => void;
}

/** What is shown of all trials, and by what they are ranked. */
export function TrialTools({ kind, metric, onMetric, search, onSearch, starred, onStarred }: Props) {
  return (
    <>
      <input
        type="search"
        aria-label="Search trials"
        placeholder="candidate, setting, note"
        className="field w-52"
        value={search}
        onChange={(event) => onSearch(event.target.value)}
      />
      <label className="flex items-center gap-2 text-caption text-faded">
        ranked by
        <MetricSelect
          label="Ranked by"
          value={metric}
          metrics={metricsFor(kind)}
          onChange={onMetric}
          className="text-ink"
        />
      </label>
      <label className="flex items-center gap-1.5 text-caption text-faded">
        <input type="checkbox" checked={starred} onChange={(event) => onStarred(event.target.checked)} />
        starred only
      </label>
    </>
  );
}
