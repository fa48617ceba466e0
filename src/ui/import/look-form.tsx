"use client";
import { changeColumn, troubleWithTarget } from "@/core/files/change-choices";
import { tableNameOf } from "@/core/files/several";
import { valueCounts, type ValueCounts } from "@/core/files/value-counts";
import { valueNotes } from "@/core/files/value-notes";
import { formatCount, formatNumber, formatPart } from "@/core/format/numbers";
import { useMemo, useState } from "react";
import {
  DATE_ORDERS,
  LOADED_TYPES,
  type Choices,
  type ColumnLook,
  type FileLook,
  type TextLook,
} from "@/core/files/look";
import { lookAtImportAgain, startLoad } from "@/server/import-actions";

import { Problems } from "../basic/problems";
import type { SeenImport } from "@/server/import-request";
import { useAction } from "../basic/use-action";
import { tellProblems } from "../basic/tell-problems";

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
const ENCODINGS = [
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
] as const;
const ORDER_WORDS = { ymd: "year, month, day", dmy: "day, month, year", mdy: "month, day, year" } as const;
const isDate = (type: string): boolean => type === "date" || type === "timestamp" || type === "timestamptz";

/** A table that files can be loaded into. */
export interface KnownTable {
  readonly name: string;
  readonly readers: readonly string[];
}

interface Props {
  readonly row: SeenImport;
  readonly look: FileLook;
  readonly importSchema: string;
  /** Tables that files can be loaded into, with the pipelines that read them. */
  readonly known: readonly KnownTable[];
  readonly onOrdered: () => void;
}

/** What was found in a file, to be corrected, and where it shall go. */
export function LookForm({ row, look, importSchema, known, onOrdered }: Props) {
  const [choices, setChoices] = useState<Choices>(
    () =>
      row.choices ?? {
        ...look.choices,
        table: tableNameOf(row.name),
        mode: "new",
        misfits: "stop",
      },
  );
  const [busy, ask] = useAction();
  const put = (change: Partial<Choices>): void => setChoices((now) => ({ ...now, ...change }));
  const column = (place: number, change: Partial<ColumnLook>): void =>
    setChoices((now) => changeColumn(now, place, change));
  const trouble = troubleWithTarget(
    choices,
    known.map(({ name }) => name),
  );
  const readers =
    choices.mode === "replace"
      ? (known.find(({ name }) => name === choices.table.trim())?.readers ?? [])
      : [];
  const misfits =
    look.broken +
    choices.columns.reduce(
      (sum, each, at) =>
        sum + (each.take && each.type === look.choices.columns[at]?.type ? look.findings[at]!.misfits : 0),
      0,
    );
  const again = async (text: Partial<TextLook> | undefined, sheet?: string): Promise<void> => {
    const outcome = await ask(() =>
      lookAtImportAgain(row.id, {
        ...(text ? { text: { ...choices.text, ...text } } : {}),
        ...(sheet === undefined ? {} : { sheet }),
      }),
    );
    if (outcome.ok) onOrdered();
    else tellProblems(outcome.problems);
  };
  const load = async (): Promise<void> => {
    const asked = `Replace ${importSchema}.${choices.table}? It is read by ${readers.join(", ")}.`;
    if (readers.length > 0 && !window.confirm(asked)) return;
    const outcome = await ask(() => startLoad(row.id, choices));
    if (outcome.ok) onOrdered();
    else tellProblems(outcome.problems);
  };
  const label = "flex items-center gap-2 text-faded";
  const { text } = choices;
  return (
    <div data-testid="look">
      {look.notes.map((each) => (
        <p key={each} className="mb-2 text-madder">
          {each}
        </p>
      ))}
      <section
        aria-label="File format"
        className="flex flex-wrap items-center gap-x-5 gap-y-2 border-y border-rule py-2 text-sm"
      >
        <span>
          <b className="figure">{formatCount(look.rows, "row")}</b>,{" "}
          {formatCount(look.findings.length, "column")}
        </span>
        {text && (
          <>
            <label className={label}>
              delimiter
              <select
                className="field py-0.5"
                disabled={busy}
                value={text.delimiter}
                onChange={(event) => void again({ delimiter: event.target.value })}
              >
                {DELIMITERS.map(([value, words]) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </select>
            </label>
            <label className={label}>
              quoting
              <select
                className="field py-0.5"
                disabled={busy}
                value={text.quote}
                onChange={(event) => void again({ quote: event.target.value })}
              >
                {QUOTES.map(([value, words]) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </select>
            </label>
            <label className={label}>
              encoding
              <select
                className="field py-0.5"
                disabled={busy}
                value={text.encoding}
                onChange={(event) => void again({ encoding: event.target.value })}
              >
                {ENCODINGS.map((each) => (
                  <option key={each}>{each}</option>
                ))}
              </select>
            </label>
            <label className={label}>
              <input
                type="checkbox"
                className="accent-(--woad)"
                disabled={busy}
                checked={text.header}
                onChange={(event) => void again({ header: event.target.checked })}
              />
              first row is a header
            </label>
          </>
        )}
        {look.sheets && (
          <label className={label}>
            sheet
            <select
              className="field py-0.5"
              value={choices.sheet}
              onChange={(event) => void again(undefined, event.target.value)}
            >
              {look.sheets.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
        )}
        <label className={label}>
          decimal mark
          <select
            className="field py-0.5"
            value={choices.values.decimal}
            onChange={(event) =>
              put({ values: { ...choices.values, decimal: event.target.value === "," ? "," : "." } })
            }
          >
            <option value=".">point</option>
            <option value=",">comma</option>
          </select>
        </label>
        <label className={label}>
          missing values
          <input
            className="field figure w-44 py-0.5"
            value={choices.values.missing.map((each) => (each === "" ? "(empty)" : each)).join(" ")}
            onChange={(event) =>
              put({
                values: {
                  ...choices.values,
                  missing: event.target.value
                    .split(" ")
                    .filter((each, at, all) => all.indexOf(each) === at)
                    .map((each) => (each === "(empty)" ? "" : each)),
                },
              })
            }
            title="Texts that mean a missing value, separated by spaces"
          />
        </label>
      </section>
      <section aria-label="Columns" className="mt-4">
        <div className="max-h-[46vh] overflow-auto border-b border-rule">
          <table className="sheet">
            <thead className="sticky top-0 bg-linen">
              <tr>
                <th>Load</th>
                <th>In the file</th>
                <th>Name</th>
                <th>Type</th>
                <th>Key</th>
                <th className="number">Missing</th>
                <th className="number">Distinct</th>
                <th>Examples</th>
                <th>Notes</th>
              </tr>
            </thead>
            <tbody>
              {choices.columns.map((each, at) => (
                <ColumnLine
                  key={each.place}
                  column={each}
                  look={look}
                  at={at}
                  counts={valueCounts(look, look.findings[at]!, choices.values.missing)}
                  isKey={choices.key.includes(each.name)}
                  onChange={(change) => column(each.place, change)}
                  onKey={(key) =>
                    put({
                      key: key
                        ? [...choices.key, each.name]
                        : choices.key.filter((name) => name !== each.name),
                    })
                  }
                />
              ))}
            </tbody>
          </table>
        </div>
      </section>
      {look.broken > 0 && (
        <details className="mt-3">
          <summary className="cursor-pointer text-madder">
            {formatNumber(look.broken)} row{look.broken === 1 ? "" : "s"} cannot be read
          </summary>
          <ul className="mt-1 max-h-40 overflow-auto text-sm">
            {look.brokenRows.map((each) => (
              <li key={each.line}>
                <span className="figure">line {each.line}</span>: {each.reason}{" "}
                <code className="text-faded">{each.text.slice(0, 100)}</code>
              </li>
            ))}
          </ul>
        </details>
      )}
      <section aria-label="Destination" className="mt-5 flex flex-wrap items-end gap-x-5 gap-y-3">
        <label className="text-sm text-faded">
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
        <fieldset className="flex gap-4 pb-1">
          <legend className="sr-only">How</legend>
          {(
            [
              ["new", "as a new table"],
              ["append", "append to the table"],
              ["replace", "replace the table"],
            ] as const
          ).map(([value, words]) => (
            <label key={value} className="flex items-center gap-1.5">
              <input
                type="radio"
                name="mode"
                className="accent-(--woad)"
                checked={choices.mode === value}
                onChange={() => put({ mode: value })}
              />
              {words}
            </label>
          ))}
        </fieldset>
        <fieldset className="flex gap-4 pb-1">
          <legend className="sr-only">Invalid rows</legend>
          {(
            [
              ["stop", "stop at invalid rows"],
              ["reject", "load the rest, save rejects to a file"],
            ] as const
          ).map(([value, words]) => (
            <label key={value} className="flex items-center gap-1.5">
              <input
                type="radio"
                name="misfits"
                className="accent-(--woad)"
                checked={choices.misfits === value}
                onChange={() => put({ misfits: value })}
              />
              {words}
            </label>
          ))}
        </fieldset>
        <button
          type="button"
          className="press press-main"
          disabled={busy || trouble !== undefined}
          onClick={() => void load()}
        >
          Load{" "}
          {formatCount(
            look.rows - (choices.misfits === "reject" ? Math.min(look.rows, misfits - look.broken) : 0),
            "row",
          )}
        </button>
      </section>
      <p id="where-to-trouble" role="status" className="mt-2 text-sm text-madder">
        {trouble ?? (readers.length > 0 ? `Pipelines that read it: ${readers.join(", ")}.` : "")}
      </p>
      {valueNotes(look, choices).map((note) => (
        <p key={note} className="mt-2 text-sm">
          {note}
        </p>
      ))}
      {misfits > 0 && (
        <p className="mt-2 text-sm text-madder">
          {formatNumber(misfits)} row{misfits === 1 ? " does" : "s do"} not fit
          {choices.misfits === "stop" ? "; the load will stop and list them." : " and will be rejected."}
        </p>
      )}
      {row.state !== "looked" && row.problems.length > 0 && (
        <div className="mt-4">
          <Problems lines problems={row.problems} />
        </div>
      )}
      {row.misfits.length > 0 && (
        <ul className="mt-2 max-h-48 overflow-auto text-sm" aria-label="Invalid rows">
          {row.misfits.map((each) => (
            <li key={`${each.line} ${each.reason}`}>
              <span className="figure">line {each.line}</span>: {each.reason}{" "}
              <code className="text-faded">{each.text.slice(0, 100)}</code>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function ColumnLine({
  column,
  look,
  at,
  counts,
  isKey,
  onChange,
  onKey,
}: {
  readonly column: ColumnLook;
  readonly look: FileLook;
  readonly at: number;
  readonly counts: ValueCounts;
  readonly isKey: boolean;
  readonly onChange: (change: Partial<ColumnLook>) => void;
  readonly onKey: (key: boolean) => void;
}) {
  const found = look.findings[at]!;
  const proposed = useMemo(() => look.choices.columns[at]?.type, [look, at]);
  return (
    <tr className={column.take ? "" : "opacity-50"}>
      <td>
        <input
          type="checkbox"
          aria-label={`Load ${column.name}`}
          className="accent-(--woad)"
          checked={column.take}
          onChange={(event) => onChange({ take: event.target.checked })}
        />
      </td>
      <td className="max-w-40 truncate text-faded" title={found.source}>
        {found.source}
      </td>
      <td>
        <input
          aria-label={`Name of ${found.source}`}
          className="field w-40 py-0.5"
          value={column.name}
          onChange={(event) => onChange({ name: event.target.value })}
        />
      </td>
      <td className="whitespace-nowrap">
        <select
          aria-label={`Type of ${column.name}`}
          className="field py-0.5"
          value={column.type}
          onChange={(event) => onChange({ type: event.target.value as ColumnLook["type"] })}
        >
          {LOADED_TYPES.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
        {isDate(column.type) && (
          <select
            aria-label={`Order of dates in ${column.name}`}
            className="field ml-1 py-0.5"
            value={column.dateOrder ?? "ymd"}
            onChange={(event) =>
              onChange({ dateOrder: event.target.value as NonNullable<ColumnLook["dateOrder"]> })
            }
          >
            {DATE_ORDERS.map((each) => (
              <option key={each} value={each}>
                {ORDER_WORDS[each]}
              </option>
            ))}
          </select>
        )}
      </td>
      <td>
        <input
          type="checkbox"
          aria-label={`${column.name} is part of the key`}
          className="accent-(--woad)"
          checked={isKey}
          disabled={!column.take}
          onChange={(event) => onKey(event.target.checked)}
        />
      </td>
      <td className={`number ${counts.missing > 0 ? "text-madder" : ""}`}>
        {formatPart(counts.missing, look.rows)}
      </td>
      <td className="number">
        {found.distinctIsExact ? "" : "over "}
        {formatNumber(counts.distinct)}
      </td>
      <td className="figure max-w-64 truncate text-[0.82rem]" title={found.examples.join(", ")}>
        {found.examples.slice(0, 3).join(", ")}
      </td>
      <td className="text-sm">
        {column.type === proposed && found.misfits > 0 && (
          <span className="text-madder">
            {formatNumber(found.misfits)} {found.misfits === 1 ? "does" : "do"} not fit.{" "}
          </span>
        )}
        {found.hints.join("; ")}
      </td>
    </tr>
  );
}
