import { Gauge, Registry } from "prom-client";

/** One number with the labels that tell it apart. */
export interface Sample {
  readonly labels?: Readonly<Record<string, string>>;
  readonly value: number;
}

/** A family of numbers of one meaning. */
export interface MetricFamily {
  readonly name: string;
  readonly help: string;
  /** All with the same labels. */
  readonly samples: readonly Sample[];
}

/** The type of the text that {@link printMetrics} writes. */
export const METRICS_TYPE = Registry.OPENMETRICS_CONTENT_TYPE;

/** Metrics in the text format of OpenMetrics 1.0. Families without a sample are left out. */
export function printMetrics(families: readonly MetricFamily[]): Promise<string> {
  const registry = new Registry<typeof METRICS_TYPE>();
  registry.setContentType(METRICS_TYPE);
  for (const { name, help, samples } of families) {
    if (samples.length === 0) continue;
    const labelNames = Object.keys(samples[0]?.labels ?? {});
    const gauge = new Gauge({ name, help, labelNames, registers: [registry] });
    for (const { labels = {}, value } of samples) gauge.set(labels, value);
  }
  return registry.metrics();
}
