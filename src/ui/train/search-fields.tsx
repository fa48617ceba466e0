"use client";
import { METRICS, metricsFor, type MetricName } from "@/core/evaluate/metrics";
import type { Task } from "@/core/learn/task";
import type { RangeFile, SearchFile } from "@/core/pipeline/schema";

interface Props {
  readonly search: SearchFile | undefined;
  readonly settings: readonly string[];
  readonly steps: readonly string[];
  readonly target: Task["kind"];
  readonly onChange: (search: SearchFile | undefined) => void;
}

const NEW: RangeFile = { setting: "", scale: "linear", whole: false };
const HOWS = {
  grid: "every combination",
  random: "combinations at random",
  bayesian: "where the scores so far promise most (Bayesian)",
} as const;

const readValues = (text: string): (string | number | boolean)[] | undefined => {
  const parts = text
    .split(",")
    .map((each) => each.trim())
    .filter((each) => each !== "");
  return parts.length === 0
    ? undefined
    : parts.map((each) =>
        each === "true" ? true : each === "false" ? false : Number.isNaN(Number(each)) ? each : Number(each),
      );
};

const numberOf = (text: string): number | undefined =>
  text.trim() === "" || Number.isNaN(Number(text)) ? undefined : Number(text);

/** What a search tries: settings of the learner and of steps, as values or as a range; how, and when it stops. */
export function SearchFields({ search, settings, steps, target, onChange }: Props) {
  if (!search)
    return (
      <p className="mt-5">
        <button
          type="button"
          className="press"
          onClick={() =>
            onChange({ how: "random", trials: 20, seed: 1, try: [{ ...NEW, setting: settings[0] ?? "" }] })
          }
        >
          Search for settings
        </button>
      </p>
    );
  const change = (part: Partial<SearchFile>): void => onChange({ ...search, ...part });
  const put = (index: number, part: Partial<RangeFile>): void =>
    change({
      try: search.try.map((each, at) => (at === index ? ({ ...each, ...part } as RangeFile) : each)),
    });
  return (
    <section aria-label="Search" className="mt-5">
      <h3 className="mb-2 font-semibold">Search</h3>
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2 text-sm text-faded">
        <label className="flex items-center gap-2">
          try
          <select
            aria-label="How combinations are chosen"
            className="field text-ink"
            value={search.how}
            onChange={(event) => change({ how: event.target.value as SearchFile["how"] })}
          >
            {Object.entries(HOWS).map(([name, says]) => (
              <option key={name} value={name}>
                {says}
              </option>
            ))}
          </select>
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
          <select
            aria-label="Search metric"
            className="field text-ink"
            value={search.metric ?? metricsFor(target)[0]}
            onChange={(event) => change({ metric: event.target.value as MetricName })}
          >
            {metricsFor(target).map((name) => (
              <option key={name} value={name}>
                {METRICS[name].title}
              </option>
            ))}
          </select>
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
            aria-label="Combinations without gain"
            className="field figure w-16 text-ink"
            placeholder="–"
            value={search.stop_after ?? ""}
            onChange={(event) => change({ stop_after: numberOf(event.target.value) })}
          />
          without gain
        </label>
      </div>
      <table className="sheet">
        <thead>
          <tr>
            <th>Of</th>
            <th>Setting</th>
            <th>Values</th>
            <th>or from</th>
            <th>to</th>
            <th>Scale</th>
            <th>Whole</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {search.try.map((each, index) => (
            <tr key={index}>
              <td>
                <select
                  aria-label="Of"
                  className="field"
                  value={each.step ?? ""}
                  onChange={(event) =>
                    put(index, { step: event.target.value === "" ? undefined : event.target.value })
                  }
                >
                  <option value="">the learner</option>
                  {steps.map((name) => (
                    <option key={name} value={name}>
                      step “{name}”
                    </option>
                  ))}
                </select>
              </td>
              <td>
                {each.step === undefined ? (
                  <select
                    aria-label="Setting"
                    className="field"
                    value={each.setting}
                    onChange={(event) => put(index, { setting: event.target.value })}
                  >
                    {settings.map((name) => (
                      <option key={name} value={name}>
                        {name}
                      </option>
                    ))}
                  </select>
                ) : (
                  <input
                    aria-label="Setting"
                    className="field w-28"
                    value={each.setting}
                    onChange={(event) => put(index, { setting: event.target.value })}
                  />
                )}
              </td>
              <td>
                <input
                  aria-label="Values"
                  className="field figure w-44"
                  placeholder="2, 4, 8"
                  defaultValue={each.values?.join(", ") ?? ""}
                  onChange={(event) => put(index, { values: readValues(event.target.value) })}
                />
              </td>
              <td>
                <input
                  aria-label="From"
                  className="field figure w-20"
                  value={each.from ?? ""}
                  disabled={each.values !== undefined}
                  onChange={(event) => put(index, { from: numberOf(event.target.value) })}
                />
              </td>
              <td>
                <input
                  aria-label="To"
                  className="field figure w-20"
                  value={each.to ?? ""}
                  disabled={each.values !== undefined}
                  onChange={(event) => put(index, { to: numberOf(event.target.value) })}
                />
              </td>
              <td>
                <select
                  aria-label="Scale"
                  className="field"
                  value={each.scale}
                  onChange={(event) => put(index, { scale: event.target.value as RangeFile["scale"] })}
                >
                  <option value="linear">linear</option>
                  <option value="log">log</option>
                </select>
              </td>
              <td>
                <input
                  aria-label="Whole numbers only"
                  type="checkbox"
                  checked={each.whole}
                  onChange={(event) => put(index, { whole: event.target.checked })}
                />
              </td>
              <td>
                <button
                  type="button"
                  className="underline"
                  onClick={() => change({ try: search.try.filter((_, at) => at !== index) })}
                >
                  remove
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 flex gap-3">
        <button
          type="button"
          className="press"
          onClick={() => change({ try: [...search.try, { ...NEW, setting: settings[0] ?? "" }] })}
        >
          A further setting
        </button>
        <button type="button" className="press" onClick={() => onChange(undefined)}>
          No search
        </button>
      </p>
    </section>
  );
}
