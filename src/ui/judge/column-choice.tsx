"use client";
import { Select } from "../select/select";

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
    <label className="flex items-center gap-2 text-caption text-faded">
      {label}
      <Select label={label} value={value} options={columns} onChange={onChange} />
    </label>
  );
}
