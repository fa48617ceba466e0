"use client";

/** A choice of one column, named for what it is chosen for. */
export function ColumnChoice({
  label,
  value,
  columns,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly columns: readonly string[];
  readonly onChange: (column: string) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-sm text-faded">
      {label}
      <select className="field text-ink" value={value} onChange={(event) => onChange(event.target.value)}>
        {columns.map((each) => (
          <option key={each} value={each}>
            {each}
          </option>
        ))}
      </select>
    </label>
  );
}
