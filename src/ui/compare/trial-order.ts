import { isBetter, type MetricName } from "@/core/evaluate/metrics";
import type { ModelSummary } from "@/store/models";

/** Words of a trial that are searched. */
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

/** @returns a trial's metric, if it has one */
export function metricOf(model: ModelSummary, metric: MetricName): number | undefined {
  const found = model.metrics[metric];
  return typeof found === "number" ? found : undefined;
}

/** @returns the base rate's metric on the rows of a trial, if it has one */
export function baseOf(models: readonly ModelSummary[], metric: MetricName): number | undefined {
  return models.map(({ base }) => base?.[metric]).find((value) => typeof value === "number");
}

/** Order of two trials: the better first, of equals the newer, and those without the metric last. */
function compareTrials(metric: MetricName, left: ModelSummary, right: ModelSummary): number {
  const [one, other] = [metricOf(left, metric), metricOf(right, metric)];
  if (one === undefined) return 1;
  if (other === undefined) return -1;
  if (one === other) return right.number - left.number;
  return isBetter(metric, one, other) ? -1 : 1;
}

/**
 * @param models all trials
 * @param wanted what is searched for, and whether only starred ones count
 * @param metric what they are ranked by
 * @returns the trials to show, the best first
 */
export function rankedTrials(
  models: readonly ModelSummary[],
  { search, starred }: { readonly search: string; readonly starred: boolean },
  metric: MetricName,
): ModelSummary[] {
  return models
    .filter((model) => wordsOf(model).includes(search.toLowerCase()) && (!starred || model.starred))
    .sort((left, right) => compareTrials(metric, left, right));
}
