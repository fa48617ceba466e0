import { formatNumber, formatPart } from "@/core/format/numbers";
import { DATE_ORDERS, LOADED_TYPES, type ColumnLook, type FileLook } from "@/core/files/look";
import { valueCounts, type ValueCounts } from "@/core/files/value-counts";
import type { LookControl } from "./use-look-form";
import { Select } from "../select/select";

const ORDER_WORDS = { ymd: "year, month, day", dmy: "day, month, year", mdy: "month, day, year" } as const;
const isDate = (type: string): boolean => type === "date" || type === "timestamp" || type === "timestamptz";

/** The columns that were found: which are loaded, under which name and type, and what their values show. */
export function LookColumns({ look, control }: { readonly look: FileLook; readonly control: LookControl }) {
  const { choices, put, putColumn } = control;
  const withKey = (name: string, isKey: boolean): string[] =>
    isKey ? [...choices.key, name] : choices.key.filter((other) => other !== name);
  return (
    <section aria-label="Columns" className="mt-4">
      <div
        className="max-h-[46vh] overflow-auto border-b border-rule"
        role="group"
        aria-label="Columns of the file"
        tabIndex={0}
      >
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
            {choices.columns.map((column, at) => (
              <ColumnLine
                key={column.place}
                column={column}
                look={look}
                at={at}
                counts={valueCounts(look, look.findings[at]!, choices.values.missing)}
                isKey={choices.key.includes(column.name)}
                onChange={(change) => putColumn(column.place, change)}
                onKey={(isKey) => put({ key: withKey(column.name, isKey) })}
              />
            ))}
          </tbody>
        </table>
      </div>
    </section>
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
  const proposed = look.choices.columns[at]?.type;
  return (
    <tr className={column.take ? "" : "text-faded"}>
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
        <Select
          label={`Type of ${column.name}`}
          className="py-0.5"
          value={column.type}
          options={LOADED_TYPES}
          onChange={(type) => onChange({ type })}
        />
        {isDate(column.type) && (
          <Select
            label={`Order of dates in ${column.name}`}
            className="ml-1 py-0.5"
            value={column.dateOrder ?? "ymd"}
            options={DATE_ORDERS.map((value) => ({ value, label: ORDER_WORDS[value] }))}
            onChange={(dateOrder) => onChange({ dateOrder })}
          />
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
      <td className="figure max-w-64 truncate text-caption" title={found.examples.join(", ")}>
        {found.examples.slice(0, 3).join(", ")}
      </td>
      <td className="text-caption">
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
