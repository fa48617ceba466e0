import type { Searchable } from "@/core/learn/search/searchable";
import type { RangeFile, SearchFile } from "@/core/pipeline/schema";
import { Mistake } from "./division/part-fields";
import { freshRange, numberOf, rangeMistake, typedValues, valuesTyped } from "./search-range";
import { Select } from "../select/select";

/** A step with the settings that can be tried. */
export interface SearchableStep {
  readonly name: string;
  readonly settings: readonly Searchable[];
}

interface Props {
  readonly range: RangeFile;
  readonly how: SearchFile["how"];
  /** Settings of the learner. */
  readonly learner: readonly Searchable[];
  readonly steps: readonly SearchableStep[];
  readonly onChange: (range: RangeFile) => void;
  readonly onRemove: () => void;
}

/** One setting that a search tries: whose it is, which, and with which values. */
export function SearchRangeRow({ range, how, learner, steps, onChange, onRemove }: Props) {
  const settings = settingsFor(range.step, learner, steps);
  const searchable = settings.find(({ setting }) => setting === range.setting);
  const mistake = rangeMistake(range, searchable, how);
  return (
    <>
      <tr>
        <td>
          <Select
            label="Setting of"
            value={range.step ?? ""}
            options={[
              { value: "", label: "the algorithm" },
              ...steps.map(({ name }) => ({ value: name, label: `step “${name}”` })),
            ]}
            onChange={(chosen) => {
              const step = chosen === "" ? undefined : chosen;
              onChange(freshRange(settingsFor(step, learner, steps)[0], step));
            }}
          />
        </td>
        <td>
          <Select
            label="Setting"
            value={range.setting}
            title={searchable?.about}
            options={[
              ...(searchable ? [] : [range.setting]),
              ...settings.map(({ setting }) => ({ value: setting, label: setting.replaceAll("_", " ") })),
            ]}
            onChange={(chosen) =>
              onChange(
                freshRange(
                  settings.find(({ setting }) => setting === chosen),
                  range.step,
                ),
              )
            }
          />
        </td>
        {searchable?.kind === "choice" ? (
          <td colSpan={4}>
            <Choices searchable={searchable} range={range} onChange={onChange} />
          </td>
        ) : (
          <NumberCells range={range} kind={searchable?.kind ?? "number"} onChange={onChange} />
        )}
        <td>
          <button type="button" className="underline" onClick={onRemove}>
            remove
          </button>
        </td>
      </tr>
      {mistake !== undefined && (
        <tr>
          <td colSpan={7} className="border-t-0 pt-0">
            <Mistake says={mistake} />
          </td>
        </tr>
      )}
    </>
  );
}

export const settingsFor = (
  step: string | undefined,
  learner: readonly Searchable[],
  steps: readonly SearchableStep[],
): readonly Searchable[] =>
  step === undefined ? learner : (steps.find(({ name }) => name === step)?.settings ?? []);

/** The values of a choice, of which those that are ticked are tried. */
function Choices({
  searchable,
  range,
  onChange,
}: {
  readonly searchable: Searchable;
  readonly range: RangeFile;
  readonly onChange: (range: RangeFile) => void;
}) {
  const values = range.values ?? [];
  return (
    <span className="flex flex-wrap gap-x-4">
      {searchable.choices.map((choice) => (
        <label key={String(choice)} className="inline-flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={values.includes(choice)}
            onChange={(event) =>
              onChange({
                ...range,
                values: event.target.checked
                  ? [...values, choice]
                  : values.filter((value) => value !== choice),
              })
            }
          />
          {String(choice).replaceAll("_", " ")}
        </label>
      ))}
    </span>
  );
}

/** Values of a number, or a range of them with its scale. */
function NumberCells({
  range,
  kind,
  onChange,
}: {
  readonly range: RangeFile;
  readonly kind: Searchable["kind"];
  readonly onChange: (range: RangeFile) => void;
}) {
  const bound = (name: "from" | "to") => (
    <td>
      <input
        aria-label={name === "from" ? "From" : "To"}
        className="field figure w-20"
        defaultValue={range[name] ?? ""}
        disabled={range.values !== undefined || kind === "numbers"}
        onChange={(event) => onChange({ ...range, [name]: numberOf(event.target.value) })}
      />
    </td>
  );
  return (
    <>
      <td>
        <input
          key={range.setting}
          aria-label="Values"
          className="field figure w-44"
          placeholder={kind === "numbers" ? "such as 8; 16, 8" : "such as 2, 4, 8"}
          defaultValue={typedValues(range.values)}
          onChange={(event) => onChange({ ...range, values: valuesTyped(event.target.value, kind) })}
        />
      </td>
      {bound("from")}
      {bound("to")}
      <td>
        <Select
          label="Scale"
          value={range.scale}
          disabled={range.values !== undefined || kind === "numbers"}
          options={["linear", "log"]}
          onChange={(scale) => onChange({ ...range, scale })}
        />
      </td>
    </>
  );
}
