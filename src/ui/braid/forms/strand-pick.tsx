"use client";
import { useDesk } from "../../draft/draft-context";
import { useForm } from "./form-context";

const TABLE = "table:";

/** A strand, or a table of the warehouse, which then becomes a strand. */
export function StrandPick({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string | undefined) => void;
}) {
  const { words } = useDesk();
  const { strands, addTable } = useForm();
  const choose = (chosen: string): void => {
    if (!chosen.startsWith(TABLE)) onChange(chosen === "" ? undefined : chosen);
    else {
      const name = addTable(chosen.slice(TABLE.length));
      if (name !== undefined) onChange(name);
    }
  };
  const known = strands.some((each) => each.name === value);
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => choose(event.target.value)}
      className={`field max-w-96 ${known || value === "" ? "" : "border-madder text-madder"}`}
    >
      <option value="">choose …</option>
      {!known && value !== "" && <option value={value}>{value} (not found)</option>}
      <optgroup label="Strands of this pipeline">
        {strands.map((each) => (
          <option key={each.name} value={each.name}>
            {each.name}
          </option>
        ))}
      </optgroup>
      <optgroup label="Table, as a new strand">
        {words.tables.map((each) => (
          <option key={each} value={`${TABLE}${each}`}>
            {each}
          </option>
        ))}
      </optgroup>
    </select>
  );
}
