import { formatCount } from "@/core/format/numbers";
import type { Choices } from "@/core/files/look";
import type { KnownTable, LookControl } from "./use-look-form";

const MODES: readonly (readonly [Choices["mode"], string])[] = [
  ["new", "as a new table"],
  ["append", "append to the table"],
  ["replace", "replace the table"],
];
const MISFITS: readonly (readonly [Choices["misfits"], string])[] = [
  ["stop", "stop at invalid rows"],
  ["reject", "load the rest, save rejects to a file"],
];

/** Where the file goes, how, and the button that loads it. */
export function LookTarget({
  control: { choices, put, busy, trouble, readers, load },
  importSchema,
  known,
  rows,
}: {
  readonly control: LookControl;
  readonly importSchema: string;
  readonly known: readonly KnownTable[];
  /** Rows that will be loaded. */
  readonly rows: number;
}) {
  return (
    <>
      <section aria-label="Destination" className="mt-5 flex flex-wrap items-end gap-x-5 gap-y-3">
        <label className="text-caption text-faded">
          into
          <span className="mt-0.5 flex items-center">
            <span className="figure pr-1 text-ink">{importSchema}.</span>
            <input
              className="field w-56"
              list="import-tables"
              value={choices.table}
              onChange={(event) => put({ table: event.target.value })}
              aria-label="Table"
              aria-describedby="where-to-trouble"
            />
            <datalist id="import-tables">
              {known.map(({ name }) => (
                <option key={name} value={name} />
              ))}
            </datalist>
          </span>
        </label>
        <Radios
          legend="How"
          name="mode"
          value={choices.mode}
          choices={MODES}
          onChange={(mode) => put({ mode })}
        />
        <Radios
          legend="Invalid rows"
          name="misfits"
          value={choices.misfits}
          choices={MISFITS}
          onChange={(misfits) => put({ misfits })}
        />
        <button
          type="button"
          className="press press-main"
          disabled={busy || trouble !== undefined}
          onClick={load}
        >
          Load {formatCount(rows, "row")}
        </button>
      </section>
      <p id="where-to-trouble" role="status" className="mt-2 text-caption text-madder">
        {trouble ?? (readers.length > 0 ? `Pipelines that read it: ${readers.join(", ")}.` : "")}
      </p>
    </>
  );
}

function Radios<T extends string>({
  legend,
  name,
  value,
  choices,
  onChange,
}: {
  readonly legend: string;
  readonly name: string;
  readonly value: T;
  readonly choices: readonly (readonly [T, string])[];
  readonly onChange: (value: T) => void;
}) {
  return (
    <fieldset className="flex gap-4 pb-1">
      <legend className="sr-only">{legend}</legend>
      {choices.map(([choice, words]) => (
        <label key={choice} className="flex items-center gap-1.5">
          <input
            type="radio"
            name={name}
            className="accent-(--woad)"
            checked={value === choice}
            onChange={() => onChange(choice)}
          />
          {words}
        </label>
      ))}
    </fieldset>
  );
}
