import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import { promisedFigures, type Promised } from "@/core/evaluate/promise";
import { measuredMetrics } from "@/core/evaluate/truth";
import type { Delivery } from "@/core/pipeline/operating-schema";
import type { PipelineFile } from "@/core/pipeline/schema";
import { writeTableName } from "@/core/pipeline/table-name";
import type { BackfillRow } from "@/store/backfills";
import type { ModelSummary } from "@/store/models";
import type { TruthRow } from "@/store/truth";
import type { BackfillProgress } from "@/ui/deliver/backfill-panel";
import type { TruthModel } from "@/ui/deliver/truth-days";

/** Where the main strand's rows come from, as people write it. */
export function sourceName(file: PipelineFile): string {
  const from = file.strands.find(({ name }) => name === file.rows.from)?.from;
  if (from === undefined) return "its source";
  if (typeof from === "string") return from;
  return "strand" in from ? `the strand ${from.strand}` : writeTableName(from);
}

/** The metric that alerts go by, and then the others that can be had from sums. */
export function truthMetrics(file: PipelineFile | undefined): readonly MetricName[] {
  if (!file) return ["accuracy"];
  const measured = measuredMetrics(file.roles.target.kind);
  const wished = file.brief?.success?.metric;
  return wished !== undefined && measured.includes(wished) && wished in METRICS
    ? [wished, ...measured.filter((metric) => metric !== wished)]
    : measured;
}

/** A version with its metrics on the holdout at the threshold of each delivery that has past predictions. */
export function truthModel(
  { id, number, metrics, intervals, data }: ModelSummary,
  deliveries: readonly Delivery[],
  promises: ReadonlyMap<number, Promised>,
  truth: readonly TruthRow[],
): TruthModel {
  const names = [...new Set(truth.map(({ delivery }) => delivery))];
  const thresholdOf = (wanted: string): number =>
    deliveries.find(({ name }) => name === wanted)?.threshold ?? 0.5;
  return {
    id,
    number,
    intervals,
    holdoutRows: data.holdoutRows,
    promised: Object.fromEntries(
      names.map((name) => [name, promisedFigures(promises.get(id) ?? { metrics }, thresholdOf(name))]),
    ),
  };
}

/** A backfill with how far it is. */
export const seenBackfill = ({
  row,
  runs,
}: {
  readonly row: BackfillRow;
  readonly runs: Readonly<Record<"queued" | "running" | "done" | "failed" | "cancelled", number>>;
}): BackfillProgress => ({
  id: row.id,
  delivery: row.delivery,
  state: row.state,
  from: row.from.toISOString(),
  until: row.until.toISOString(),
  cron: row.cron,
  zone: row.zone,
  total: row.total,
  parallel: row.parallel,
  by: row.by,
  done: runs.done,
  failed: runs.failed + runs.cancelled,
  underWay: runs.queued + runs.running,
});
