import type { MetricName } from "@/core/evaluate/metrics";
import { figureColumn } from "@/core/format/align-figures";
import { intervalColumn } from "@/core/format/align-intervals";
import { formatDuration, formatNumber } from "@/core/format/numbers";
import type { ModelSummary } from "@/store/models";
import { metricOf } from "./trial-order";

/** The figures of the trials that are shown, each column aligned. @param metric the one they are ranked by */
export const trialColumns = (shown: readonly ModelSummary[], metric: MetricName, second: MetricName) => ({
  first: figureColumn(shown, (model) => formatNumber(metricOf(model, metric))),
  ends: intervalColumn(shown, (model) => model.intervals?.[metric], formatNumber),
  second: figureColumn(shown, (model) => formatNumber(model.metrics[second])),
  fit: figureColumn(shown, ({ fitSeconds }) =>
    fitSeconds === null ? "–" : formatDuration(fitSeconds * 1000),
  ),
});

export type TrialColumns = ReturnType<typeof trialColumns>;
