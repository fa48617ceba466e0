"use client";
import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import { Select } from "./select";

/** One of several metrics by its title. */
export function MetricSelect<Name extends MetricName>({
  label,
  value,
  metrics,
  empty,
  onChange,
  className = "",
}: {
  readonly label: string;
  readonly value: string;
  readonly metrics: readonly Name[];
  /** How having no metric is called, where it can be chosen. */
  readonly empty?: string;
  readonly onChange: (metric: Name) => void;
  readonly className?: string;
}) {
  return (
    <Select<string>
      label={label}
      className={className}
      value={value}
      options={[
        ...(empty === undefined ? [] : [{ value: "", label: empty }]),
        ...metrics.map((name) => ({ value: name, label: METRICS[name].title })),
      ]}
      onChange={(name) => onChange(name as Name)}
    />
  );
}
