/** One of a delivery's columns. */
export function ColumnSelect({
  columns,
  value,
  onChange,
}: {
  readonly columns: readonly string[];
  readonly value: string | undefined;
  readonly onChange: (column: string) => void;
}) {
  return (
    <select className="field" value={value ?? ""} onChange={(event) => onChange(event.target.value)}>
      {value === undefined && <option value="">choose a column</option>}
      {[...new Set([...columns, ...(value ? [value] : [])])].map((name) => (
        <option key={name}>{name}</option>
      ))}
    </select>
  );
}
