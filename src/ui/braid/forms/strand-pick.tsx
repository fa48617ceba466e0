"use client";
import { useDesk } from "../../draft/draft-context";
import { useForm } from "./form-context";
import { Select } from "../../select/select";

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
  const known = strands.some((strand) => strand.name === value);
  return (
    <Select
      label={label}
      value={value}
      onChange={choose}
      className={`max-w-96 ${known || value === "" ? "" : "border-madder text-madder"}`}
      options={[
        ...(known || value === "" ? [] : [{ value, label: `${value} (not found)` }]),
        ...strands.map(({ name }) => ({ value: name, group: "Strands of this pipeline" })),
        ...words.tables.map((table) => ({
          value: `${TABLE}${table}`,
          label: table,
          group: "Table, as a new strand",
        })),
      ]}
    />
  );
}
