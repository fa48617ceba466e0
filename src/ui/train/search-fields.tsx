"use client";
import { metricsFor } from "@/core/evaluate/metrics";
import type { Task } from "@/core/learn/task";
import type { Searchable } from "@/core/learn/search/searchable";
import type { SearchFile } from "@/core/pipeline/schema";
import { freshRange, numberOf } from "./search-range";
import { SearchRangeRow, type SearchableStep } from "./search-range-row";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";
import { Select } from "../select/select";
import { MetricSelect } from "../select/metric-select";
import { labelledOptions } from "../select/options";

interface Props {
  readonly search: SearchFile | undefined;
  /** Settings of the learner. */
  readonly settings: readonly Searchable[];
  readonly steps: readonly SearchableStep[];
  readonly target: Task["kind"];
  readonly onChange: (search: SearchFile | undefined) => void;
}

const HOWS = {
  grid: "all combinations (grid)",
  random: "random combinations",
  bayesian: "Bayesian",
} as const;

/** What a search tries: settings of the learner and of steps, as values or as a range; how, and when it stops. */
export function SearchFields({ search, settings, steps, target, onChange }: Props) {
  if (!search)
    return (
      <p className="mt-5">
        <button
          type="button"
          className="press"
          onClick={() => onChange({ how: "random", trials: 20, seed: 1, try: [freshRange(settings[0])] })}
        >
          Search for settings
        </button>
      </p>
    );
  const change = (part: Partial<SearchFile>): void => onChange({ ...search, ...part });
  return (
    <section aria-label="Search" className="mt-5">
      <h3 className="mb-2 font-semibold">Search</h3>
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2 text-caption text-faded">
        <label className="flex items-center gap-2">
          try
          <Select
            label="Search method"
            value={search.how}
            options={labelledOptions(HOWS)}
            onChange={(how) => change({ how })}
          />
        </label>
        <label className="flex items-center gap-2">
          at most
          <input
            aria-label="Most combinations"
            className="field figure w-16 text-ink"
            value={search.trials}
            onChange={(event) => change({ trials: numberOf(event.target.value) ?? 1 })}
          />
          combinations
        </label>
        <label className="flex items-center gap-2">
          ranked by
          <MetricSelect
            label="Search metric"
            value={search.metric ?? metricsFor(target)[0] ?? ""}
            metrics={metricsFor(target)}
            onChange={(metric) => change({ metric })}
          />
        </label>
        <label className="flex items-center gap-2">
          stop after
          <input
            aria-label="Most minutes"
            className="field figure w-16 text-ink"
            placeholder="–"
            value={search.most_minutes ?? ""}
            onChange={(event) => change({ most_minutes: numberOf(event.target.value) })}
          />
          minutes
        </label>
        <label className="flex items-center gap-2">
          or
          <input
            aria-label="Combinations without improvement"
            className="field figure w-16 text-ink"
            placeholder="–"
            value={search.stop_after ?? ""}
            onChange={(event) => change({ stop_after: numberOf(event.target.value) })}
          />
          combinations without improvement
        </label>
      </div>
      <Sheet>
        <thead>
          <tr>
            <th>Setting of</th>
            <th>Setting</th>
            <th>Values</th>
            <th>or from</th>
            <th>to</th>
            <th>Scale</th>
            <HiddenHead name="Remove" />
          </tr>
        </thead>
        <tbody>
          {search.try.map((range, index) => (
            <SearchRangeRow
              key={index}
              range={range}
              how={search.how}
              learner={settings}
              steps={steps}
              onChange={(changed) =>
                change({ try: search.try.map((other, at) => (at === index ? changed : other)) })
              }
              onRemove={() => change({ try: search.try.filter((_, at) => at !== index) })}
            />
          ))}
        </tbody>
      </Sheet>
      <p className="mt-2 flex gap-3">
        <button
          type="button"
          className="press"
          onClick={() => change({ try: [...search.try, freshRange(settings[0])] })}
        >
          Add setting
        </button>
        <button type="button" className="press" onClick={() => onChange(undefined)}>
          No search
        </button>
      </p>
    </section>
  );
}
