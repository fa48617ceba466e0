"use client";
import { OctagonAlert } from "lucide-react";
import { useId, type ReactNode } from "react";
import type { DivisionField, DivisionMistakes } from "./division-draft";
import { Select } from "../../select/select";
import { pairedOptions } from "../../select/options";

/** A field with its name before it, and below it what is wrong. */
export function DivisionFieldRow({
  name,
  mistake,
  children,
}: {
  readonly name: string;
  readonly mistake: string | undefined;
  readonly children: (ids: { readonly id: string; readonly trouble: string }) => ReactNode;
}) {
  const id = useId();
  const trouble = `${id}-trouble`;
  return (
    <div className="mb-1.5 grid grid-cols-[104px_minmax(0,1fr)] items-baseline gap-x-3">
      <label htmlFor={id} className="text-faded">
        {name}
      </label>
      <div>
        {children({ id, trouble })}
        <p id={trouble} role="status" className="text-caption text-madder">
          <Mistake says={mistake} />
        </p>
      </div>
    </div>
  );
}

/** What is wrong at a field. */
export function Mistake({ says }: { readonly says: string | undefined }) {
  if (says === undefined) return null;
  return (
    <span className="mt-0.5 flex gap-1.5 text-caption text-madder">
      <OctagonAlert size={14} aria-hidden className="mt-0.5 shrink-0" />
      {says}
    </span>
  );
}

/** A line of text in such a field. */
export function TextField({
  name,
  field,
  value,
  width = "w-full",
  mistakes,
  onChange,
}: {
  readonly name: string;
  readonly field: DivisionField;
  readonly value: string;
  readonly width?: string;
  readonly mistakes: DivisionMistakes;
  readonly onChange: (value: string) => void;
}) {
  return (
    <DivisionFieldRow name={name} mistake={mistakes[field]}>
      {({ id, trouble }) => (
        <input
          id={id}
          className={`field figure ${width}`}
          value={value}
          aria-invalid={mistakes[field] !== undefined}
          aria-describedby={trouble}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </DivisionFieldRow>
  );
}

/** A table of the warehouse in such a field. */
export function TableField({
  name,
  field,
  value,
  tables,
  mistakes,
  onChange,
}: {
  readonly name: string;
  readonly field: DivisionField;
  readonly value: string;
  readonly tables: readonly string[];
  readonly mistakes: DivisionMistakes;
  readonly onChange: (table: string) => void;
}) {
  const isKnown = value === "" || tables.includes(value);
  return (
    <DivisionFieldRow name={name} mistake={mistakes[field]}>
      {({ id, trouble }) => (
        <Select
          id={id}
          label={name}
          className="w-full"
          value={value}
          options={isKnown ? tables : [value, ...tables]}
          describedBy={trouble}
          onChange={onChange}
        />
      )}
    </DivisionFieldRow>
  );
}

/** A choice among ways in such a field. */
export function WayField<Way extends string>({
  name,
  value,
  ways,
  onChange,
}: {
  readonly name: string;
  readonly value: Way;
  readonly ways: readonly (readonly [way: Way, says: string])[];
  readonly onChange: (way: Way) => void;
}) {
  return (
    <DivisionFieldRow name={name} mistake={undefined}>
      {({ id }) => (
        <Select
          id={id}
          label={name}
          className="w-full"
          value={value}
          options={pairedOptions(ways)}
          onChange={onChange}
        />
      )}
    </DivisionFieldRow>
  );
}
