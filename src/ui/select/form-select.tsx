"use client";
import { useState } from "react";
import type { SelectOption } from "./options";
import { Select } from "./select";

/** A select within a form that the browser sends. */
export function FormSelect({
  name,
  label,
  first,
  options,
}: {
  /** The name under which the value is sent. */
  readonly name: string;
  readonly label: string;
  readonly first: string;
  readonly options: readonly SelectOption[];
}) {
  const [value, setValue] = useState(first);
  return (
    <>
      <input type="hidden" name={name} value={value} />
      <Select label={label} value={value} options={options} onChange={setValue} />
    </>
  );
}
