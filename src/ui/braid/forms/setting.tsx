"use client";
import { writeNumberTyped } from "../../basic/typed-setting";
import {
  asChoices,
  Choices,
  ColumnsPick,
  OrderPick,
  Pick,
  WordsPick,
  YesNo,
  Chips,
  type OrderEntry,
} from "./controls";
import { ExpressionField } from "./expression-field";
import type { Field, Input } from "./field";
import { useForm } from "./form-context";
import { ByColumn, Expressions, JoinColumns, MapOf, ValuesOf } from "./records";
import { Regions } from "./regions";
import { SelectField } from "./select-field";
import { StrandPick } from "./strand-pick";
import { TypedText } from "../../basic/typed-text";
import { initialOf, insideOf, partOf } from "./variant";

interface Props {
  readonly input: Input;
  readonly label: string;
  readonly value: unknown;
  /** undefined takes the setting out of the file. */
  readonly onChange: (value: unknown) => void;
  /** What counts when nothing is written. */
  readonly initial?: unknown;
  /** Values around this one, for controls that depend on another. */
  readonly around: Readonly<Record<string, unknown>>;
}

const list = (value: unknown): readonly string[] => (Array.isArray(value) ? value.map(String) : []);
const record = (value: unknown): Readonly<Record<string, unknown>> =>
  typeof value === "object" && value !== null && !Array.isArray(value)
    ? (value as Readonly<Record<string, unknown>>)
    : {};
const words = (value: unknown): string =>
  typeof value === "string" || typeof value === "number" || typeof value === "boolean" ? String(value) : "";
/** An empty list of something that may be left out is left out. */
const orAbsent = <T,>(values: readonly T[]): readonly T[] | undefined =>
  values.length === 0 ? undefined : values;

/** A number, or the text that is none, for the checker to say so. */
function asNumber(text: string): number | string {
  const value = Number(text);
  return Number.isNaN(value) ? text : value;
}

/** A text that is a number or yes/no becomes one; anything else stays a text. */
function asConstant(text: string): string | number | boolean | undefined {
  if (text === "") return undefined;
  if (text === "true" || text === "false") return text === "true";
  return /^-?\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : text;
}

const orders = (value: unknown): readonly OrderEntry[] =>
  (Array.isArray(value) ? value : []).map((each: unknown) =>
    typeof each === "string"
      ? { column: each, descending: false }
      : { column: words(record(each)["column"]), descending: record(each)["descending"] === true },
  );

/** The control for one setting. */
export function Setting({ input, label, value, onChange, initial, around }: Props) {
  const form = useForm();
  const columnsOf = (there: string | undefined) =>
    there === undefined
      ? form.columns
      : (form.strands.find((each) => each.name === around[there])?.columns ?? []);
  switch (input.as) {
    case "text":
      return (
        <TypedText
          label={label}
          usual={words(initial)}
          example={input.example}
          value={words(value)}
          onChange={(text) => onChange(text === "" ? undefined : text)}
        />
      );
    case "number":
      return (
        <TypedText
          numeric
          label={label}
          usual={words(initial)}
          value={words(value)}
          onChange={(text) => onChange(text.trim() === "" ? undefined : asNumber(text))}
        />
      );
    case "constant":
      return (
        <TypedText
          label={label}
          usual={words(initial)}
          value={words(value)}
          onChange={(text) => onChange(asConstant(text))}
        />
      );
    case "yes":
      return (
        <YesNo
          label={label}
          value={(value ?? initial) === true}
          onChange={(yes) => onChange(yes === (initial ?? false) ? undefined : yes)}
        />
      );
    case "choice":
      return (
        <Pick
          label={label}
          value={words(value ?? initial)}
          choices={input.choices.map(([each, name]) => [String(each), name])}
          onChange={(each) => onChange(each === words(initial) ? undefined : each)}
        />
      );
    case "choices":
      return (
        <Choices
          label={label}
          values={Array.isArray(value) ? value : []}
          choices={input.choices}
          onChange={onChange}
        />
      );
    case "column":
      return (
        <Pick
          label={label}
          value={words(value)}
          choices={asChoices(columnsOf(input.there), input.families)}
          empty="none"
          onChange={(name) => onChange(name === "" ? undefined : name)}
        />
      );
    case "columns":
      return (
        <ColumnsPick
          label={label}
          values={list(value)}
          columns={columnsOf(input.there)}
          families={input.families}
          onChange={(names) => onChange(orAbsent(names))}
        />
      );
    case "words":
      return <WordsPick label={label} values={list(value)} onChange={(all) => onChange(orAbsent(all))} />;
    case "numbers":
      return <Numbers label={label} value={value ?? initial} onChange={onChange} />;
    case "strand":
      return <StrandPick label={label} value={words(value)} onChange={onChange} />;
    case "strands":
      return (
        <Chips
          values={list(value)}
          onRemove={(index) => onChange(orAbsent(list(value).filter((_, at) => at !== index)))}
        >
          <StrandPick
            label={`Add to ${label}`}
            value=""
            onChange={(name) => {
              if (name !== undefined) onChange([...list(value), name]);
            }}
          />
        </Chips>
      );
    case "order":
      return (
        <OrderPick
          label={label}
          values={orders(value)}
          columns={form.columns}
          onChange={(all) => onChange(orAbsent(all.map((each) => (each.descending ? each : each.column))))}
        />
      );
    case "expression":
      return (
        <ExpressionField
          label={label}
          value={words(value)}
          onChange={(text) => onChange(text.trim() === "" ? undefined : text)}
          place={form.place}
          columns={form.columns}
          other={
            input.with === undefined
              ? undefined
              : form.strands
                  .filter((each) => each.name === around[input.with ?? ""])
                  .map((each) => ({ strand: each.name, columns: each.columns }))[0]
          }
        />
      );
    case "select":
      return <SelectField label={label} value={words(value)} onChange={onChange} />;
    case "expressions":
      return (
        <Expressions
          label={label}
          value={record(value)}
          aggregate={input.aggregate ?? false}
          by={list(around["by"])}
          onChange={onChange}
        />
      );
    case "by column":
      return (
        <ByColumn
          label={label}
          value={record(value)}
          onChange={onChange}
          initial={input.initial}
          control={(name, inner, put) => (
            <Setting input={input.value} label={name} value={inner} onChange={put} around={around} />
          )}
        />
      );
    case "join columns":
      return (
        <JoinColumns
          label={label}
          value={value}
          there={columnsOf("with")}
          other={words(around["with"])}
          onChange={onChange}
        />
      );
    case "values of":
      return (
        <ValuesOf
          label={label}
          column={words(around[input.column])}
          value={Array.isArray(value) ? value : []}
          onChange={(all) => onChange(orAbsent(all))}
        />
      );
    case "map of":
      return (
        <MapOf label={label} column={words(around[input.column])} value={record(value)} onChange={onChange} />
      );
    case "regions":
      return <Regions label={label} value={value} onChange={onChange} />;
    case "variant":
      return (
        <Variant
          input={input}
          label={label}
          value={value}
          onChange={onChange}
          initial={initial}
          around={around}
        />
      );
  }
}

function Numbers({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: unknown;
  readonly onChange: (value: unknown) => void;
}) {
  return (
    <WordsPick
      label={label}
      values={list(value)}
      onChange={(all) => onChange(orAbsent(all.map((text) => asNumber(writeNumberTyped(text)))))}
    />
  );
}

function Variant({
  input,
  label,
  value,
  onChange,
  initial,
  around,
}: Props & { readonly input: Extract<Input, { as: "variant" }> }) {
  const { parts, absent } = input;
  const shown = value ?? initial;
  const chosen = partOf(parts, shown);
  const part = parts[chosen];
  const choices = parts.map((each, index) => [String(index), each.label] as const);
  const inside = part && insideOf(part, shown);
  return (
    <div className="flex flex-wrap items-start gap-3">
      <Pick
        label={label}
        value={chosen < 0 ? "" : String(chosen)}
        empty={absent}
        choices={choices}
        onChange={(index) => {
          const wanted = parts[Number(index)];
          onChange(index === "" || !wanted ? undefined : initialOf(wanted));
        }}
      />
      {part && inside && "input" in part.is && (
        <div className="min-w-40 flex-1">
          <Setting
            input={part.is.input}
            label={`${label}: ${part.label}`}
            value={inside.inner}
            onChange={(inner) => onChange(inner === undefined ? undefined : inside.wrap(inner))}
            around={around}
          />
        </div>
      )}
      {part && inside && "fields" in part.is && (
        <Fields
          fields={part.is.fields}
          label={label}
          value={record(inside.inner)}
          onChange={(inner) => onChange(inside.wrap(inner))}
        />
      )}
    </div>
  );
}

function Fields({
  fields,
  label,
  value,
  onChange,
}: {
  readonly fields: readonly Field[];
  readonly label: string;
  readonly value: Readonly<Record<string, unknown>>;
  readonly onChange: (value: Readonly<Record<string, unknown>>) => void;
}) {
  return fields.map((field) => (
    <div key={field.name} className="flex items-center gap-1.5">
      <span className="text-sm text-faded">{field.name.replaceAll("_", " ")}</span>
      <Setting
        input={field}
        label={`${label}: ${field.name}`}
        value={value[field.name]}
        around={value}
        onChange={(inner) =>
          onChange(
            Object.fromEntries(
              Object.entries({ ...value, [field.name]: inner }).filter(([, each]) => each !== undefined),
            ),
          )
        }
      />
    </div>
  ));
}
