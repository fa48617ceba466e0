"use client";
import { ArrowDown, ArrowUp, Plus, X } from "lucide-react";
import { useContext, useState, type ReactNode } from "react";
import type { Family } from "@/core/value-type";
import type { ColumnHere } from "../places";
import type { Choice } from "./field";
import { Select } from "../../select/select";
import { FormContext } from "./form-context";

/** One of a few or many things; typing finds them. */
export function Pick({
  value,
  choices,
  onChange,
  label,
  empty,
}: {
  readonly value: string;
  readonly choices: readonly (readonly [string, string])[];
  readonly onChange: (value: string) => void;
  readonly label: string;
  readonly empty?: string | undefined;
}) {
  const known = choices.some(([word]) => word === value);
  const marks = useContext(FormContext)?.marks;
  return (
    <Select
      label={label}
      value={value}
      onChange={onChange}
      placeholder={empty ?? "choose …"}
      className={`max-w-96 ${known || value === "" ? "" : "border-madder text-madder"}`}
      options={[
        ...(empty === undefined ? [] : [{ value: "", label: empty }]),
        ...(known || value === "" ? [] : [{ value, label: `${value} (not found)` }]),
        ...choices.map(([name, shown]) => ({ value: name, label: shown, mark: marks?.get(name) })),
      ]}
    />
  );
}

/** Columns as choices, with their types. */
export const asChoices = (
  columns: readonly ColumnHere[],
  families?: readonly Family[],
): readonly (readonly [string, string])[] =>
  columns
    .filter((column) => !families || families.includes(column.family))
    .map((column) => [column.name, `${column.name} (${column.type})`] as const);

export function YesNo({
  value,
  onChange,
  label,
}: {
  readonly value: boolean;
  readonly onChange: (value: boolean) => void;
  readonly label: string;
}) {
  return (
    <input
      type="checkbox"
      aria-label={label}
      checked={value}
      onChange={(event) => onChange(event.target.checked)}
      className="h-4 w-4 accent-(--woad)"
    />
  );
}

export function Choices({
  values,
  choices,
  onChange,
  label,
}: {
  readonly values: readonly unknown[];
  readonly choices: readonly Choice[];
  readonly onChange: (values: readonly unknown[]) => void;
  readonly label: string;
}) {
  return (
    <div role="group" aria-label={label} className="flex flex-wrap gap-x-4 gap-y-1">
      {choices.map(([value, name]) => (
        <label key={String(value)} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={values.includes(value)}
            onChange={(event) =>
              onChange(
                choices
                  .map(([value]) => value)
                  .filter((choice) => (choice === value ? event.target.checked : values.includes(choice))),
              )
            }
            className="h-4 w-4 accent-(--woad)"
          />
          {name}
        </label>
      ))}
    </div>
  );
}

/** Things chosen, each of which can be taken out again. */
export function Chips({
  values,
  onRemove,
  wrong,
  children,
}: {
  readonly values: readonly string[];
  readonly onRemove: (index: number) => void;
  readonly wrong?: ((value: string) => boolean) | undefined;
  readonly children?: ReactNode;
}) {
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {values.map((value, index) => (
        <span
          key={`${value} ${index}`}
          className={`flex items-center gap-1 border-b-2 bg-weft py-0.5 pl-2 pr-0.5 ${wrong?.(value) ? "border-madder text-madder line-through" : "border-woad"}`}
        >
          <span className="max-w-56 truncate" title={value}>
            {value === "" ? "(empty text)" : value}
          </span>
          <button
            type="button"
            aria-label={`Remove ${value}`}
            onClick={() => onRemove(index)}
            className="px-1 text-faded hover:text-madder"
          >
            <X size={12} aria-hidden />
          </button>
        </span>
      ))}
      {children}
    </div>
  );
}

/** Several columns: chips, and a choice of those not taken yet. */
export function ColumnsPick({
  values,
  columns,
  families,
  onChange,
  label,
}: {
  readonly values: readonly string[];
  readonly columns: readonly ColumnHere[];
  readonly families?: readonly Family[] | undefined;
  readonly onChange: (values: readonly string[]) => void;
  readonly label: string;
}) {
  const open = asChoices(columns, families).filter(([name]) => !values.includes(name));
  return (
    <Chips
      values={values}
      onRemove={(index) => onChange(values.filter((_, position) => position !== index))}
      wrong={(name) => !columns.some((column) => column.name === name)}
    >
      {open.length > 0 && (
        <Pick
          label={`Add to ${label}`}
          value=""
          empty="+ column"
          choices={open}
          onChange={(name) => {
            if (name !== "") onChange([...values, name]);
          }}
        />
      )}
    </Chips>
  );
}

/** A list of free words: typed, taken with Enter, or several at once with commas. */
export function WordsPick({
  values,
  onChange,
  label,
  children,
}: {
  readonly values: readonly string[];
  readonly onChange: (values: readonly string[]) => void;
  readonly label: string;
  readonly children?: ReactNode;
}) {
  const [text, setText] = useState("");
  const add = (): void => {
    const fresh = text
      .split(",")
      .map((part) => part.trim())
      .filter((text) => text !== "" && !values.includes(text));
    if (fresh.length > 0) onChange([...values, ...fresh]);
    setText("");
  };
  return (
    <Chips values={values} onRemove={(index) => onChange(values.filter((_, position) => position !== index))}>
      <input
        aria-label={`Add to ${label}`}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            add();
          }
        }}
        onBlur={add}
        placeholder="+ type and Enter"
        className="field w-36"
      />
      {children}
    </Chips>
  );
}

export interface OrderEntry {
  readonly column: string;
  readonly descending: boolean;
}

/** Columns to sort by, each upwards or downwards. */
export function OrderPick({
  values,
  columns,
  onChange,
  label,
}: {
  readonly values: readonly OrderEntry[];
  readonly columns: readonly ColumnHere[];
  readonly onChange: (values: readonly OrderEntry[]) => void;
  readonly label: string;
}) {
  const put = (index: number, entry: OrderEntry | undefined): void =>
    onChange(values.flatMap((value, at) => (at === index ? (entry ?? []) : value)));
  return (
    <div className="flex flex-wrap items-center gap-2">
      {values.map((value, index) => (
        <span key={index} className="flex items-center">
          <Pick
            label={`${label} ${index + 1}`}
            value={value.column}
            choices={asChoices(columns)}
            onChange={(column) => put(index, { ...value, column })}
          />
          <button
            type="button"
            onClick={() => put(index, { ...value, descending: !value.descending })}
            className="press press-quiet px-1"
            aria-label={value.descending ? `${value.column}: descending` : `${value.column}: ascending`}
          >
            {value.descending ? <ArrowDown size={14} /> : <ArrowUp size={14} />}
          </button>
          <button
            type="button"
            onClick={() => put(index, undefined)}
            className="press press-quiet px-1"
            aria-label={`Remove ${value.column}`}
          >
            <X size={13} />
          </button>
        </span>
      ))}
      <Pick
        label={`Add to ${label}`}
        value=""
        empty="+ column"
        choices={asChoices(columns).filter(([name]) => !values.some((value) => value.column === name))}
        onChange={(column) => {
          if (column !== "") onChange([...values, { column, descending: false }]);
        }}
      />
    </div>
  );
}

/** Rows of something with a button for one more. */
export function Listed({
  children,
  onAdd,
  add,
  disabled,
}: {
  readonly children: ReactNode;
  readonly onAdd: () => void;
  readonly add: string;
  readonly disabled?: boolean;
}) {
  return (
    <div className="space-y-1.5">
      {children}
      <button type="button" onClick={onAdd} disabled={disabled} className="press press-quiet px-1 py-0.5">
        <Plus size={13} aria-hidden />
        {add}
      </button>
    </div>
  );
}

/** A name that must stay in place while its entry keeps its order. */
export function renameKey(
  record: Readonly<Record<string, unknown>>,
  from: string,
  to: string,
): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(record).map(([name, value]) => [name === from ? to : name, value]),
  );
}

/** A label beside a control, with what it means on its right, or below a wide one. */
export function Labelled({
  label,
  help,
  problems,
  wide = false,
  children,
}: {
  readonly label: string;
  readonly help?: string | undefined;
  readonly problems: readonly string[];
  /** The control takes all the width; what it means stands below it. */
  readonly wide?: boolean;
  readonly children: ReactNode;
}) {
  return (
    <div className="grid grid-cols-[120px_minmax(0,1fr)] gap-x-4 py-1 @4xl:grid-cols-[150px_22rem_minmax(0,1fr)]">
      <span className={`pt-1 text-caption ${problems.length > 0 ? "font-medium text-madder" : "text-faded"}`}>
        {label}
      </span>
      <div className={`min-w-0 ${wide ? "@4xl:col-span-2" : ""}`}>
        {children}
        {problems.map((problem) => (
          <p key={problem} role="alert" className="mt-0.5 text-caption text-madder">
            {problem}
          </p>
        ))}
      </div>
      <p
        className={`col-start-2 pt-0.5 text-caption leading-snug text-faded ${wide ? "@4xl:col-[2/span_2]" : "@4xl:col-start-3"}`}
      >
        {help}
      </p>
    </div>
  );
}
