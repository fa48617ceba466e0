import { Select } from "../select/select";
/** One of a delivery's columns. */
export function ColumnSelect({
  label,
  columns,
  value,
  onChange,
}: {
  readonly label: string;
  readonly columns: readonly string[];
  readonly value: string | undefined;
  readonly onChange: (column: string) => void;
}) {
  return (
    <Select
      label={label}
      value={value ?? ""}
      placeholder="choose a column"
      options={[...new Set([...columns, ...(value ? [value] : [])])]}
      onChange={onChange}
    />
  );
}
