import { formatCount } from "@/core/format/numbers";
import type { FileLook, TextLook } from "@/core/files/look";
import type { LookControl } from "./use-look-form";
import { Select } from "../select/select";
import { pairedOptions } from "../select/options";

const DELIMITERS = [
  [",", "comma"],
  [";", "semicolon"],
  ["\t", "tab"],
  ["|", "bar"],
  [":", "colon"],
] as const;
const QUOTES = [
  ['"', "double quotes"],
  ["'", "single quotes"],
  ["", "none"],
] as const;
const ENCODINGS: readonly (readonly [string, string])[] = [
  "utf-8",
  "windows-1252",
  "windows-1250",
  "windows-1251",
  "iso-8859-2",
  "iso-8859-15",
  "utf-16le",
  "utf-16be",
  "shift_jis",
  "gb18030",
].map((name) => [name, name]);

const LABEL = "flex items-center gap-2 text-faded";

interface Props {
  readonly look: FileLook;
  readonly control: LookControl;
}

/** How the file is read: what was found, and what can be said otherwise. */
export function LookFormat({ look, control }: Props) {
  const { choices, put, readAgain } = control;
  const { values } = choices;
  return (
    <section
      aria-label="File format"
      className="flex flex-wrap items-center gap-x-5 gap-y-2 border-y border-rule py-2 text-caption"
    >
      <span>
        <b className="figure">{formatCount(look.rows, "row")}</b>,{" "}
        {formatCount(look.findings.length, "column")}
      </span>
      {choices.text && <TextFormat text={choices.text} control={control} />}
      {look.sheets && (
        <Choice
          label="sheet"
          value={choices.sheet ?? ""}
          choices={look.sheets.map((name) => [name, name])}
          onChange={(sheet) => readAgain({ sheet })}
        />
      )}
      <Choice
        label="decimal mark"
        value={values.decimal}
        choices={[
          [".", "point"],
          [",", "comma"],
        ]}
        onChange={(mark) => put({ values: { ...values, decimal: mark === "," ? "," : "." } })}
      />
      <label className={LABEL}>
        missing values
        <input
          className="field figure w-44 py-0.5"
          value={values.missing.map((marker) => (marker === "" ? "(empty)" : marker)).join(" ")}
          onChange={(event) => put({ values: { ...values, missing: markersOf(event.target.value) } })}
          title="Texts that mean a missing value, separated by spaces"
        />
      </label>
    </section>
  );
}

/** Texts that mean a missing value, without repeats. */
const markersOf = (typed: string): string[] =>
  [...new Set(typed.split(" "))].map((marker) => (marker === "(empty)" ? "" : marker));

function TextFormat({
  text,
  control: { busy, readAgain },
}: {
  readonly text: TextLook;
  readonly control: LookControl;
}) {
  return (
    <>
      <Choice
        label="delimiter"
        value={text.delimiter}
        choices={DELIMITERS}
        disabled={busy}
        onChange={(delimiter) => readAgain({ text: { delimiter } })}
      />
      <Choice
        label="quoting"
        value={text.quote}
        choices={QUOTES}
        disabled={busy}
        onChange={(quote) => readAgain({ text: { quote } })}
      />
      <Choice
        label="encoding"
        value={text.encoding}
        choices={ENCODINGS}
        disabled={busy}
        onChange={(encoding) => readAgain({ text: { encoding } })}
      />
      <label className={LABEL}>
        <input
          type="checkbox"
          className="accent-(--woad)"
          disabled={busy}
          checked={text.header}
          onChange={(event) => readAgain({ text: { header: event.target.checked } })}
        />
        first row is a header
      </label>
    </>
  );
}

function Choice({
  label,
  value,
  choices,
  disabled = false,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly choices: readonly (readonly [value: string, words: string])[];
  readonly disabled?: boolean;
  readonly onChange: (value: string) => void;
}) {
  return (
    <label className={LABEL}>
      {label}
      <Select
        label={label}
        className="py-0.5"
        disabled={disabled}
        value={value}
        options={pairedOptions(choices)}
        onChange={onChange}
      />
    </label>
  );
}
