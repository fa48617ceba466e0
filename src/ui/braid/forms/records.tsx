"use client";
import { X } from "lucide-react";
import type { ReactNode } from "react";
import { useMutation } from "@tanstack/react-query";
import { toast } from "sonner";
import { postJson } from "../../queries/fetch-json";
import { useDesk } from "../../draft/draft-context";
import type { ColumnHere } from "../places";
import { asChoices, Listed, Pick, renameKey, WordsPick } from "./controls";
import { TypedText } from "../../basic/typed-text";
import { ExpressionField } from "./expression-field";
import { useForm } from "./form-context";

type RecordOf = Readonly<Record<string, unknown>>;

const without = (record: RecordOf, name: string): RecordOf =>
  Object.fromEntries(Object.entries(record).filter(([value]) => value !== name));
const orAbsent = (record: RecordOf): RecordOf | undefined =>
  Object.keys(record).length === 0 ? undefined : record;

function Remove({ what, onClick }: { readonly what: string; readonly onClick: () => void }) {
  return (
    <button type="button" aria-label={`Remove ${what}`} onClick={onClick} className="press press-quiet px-1">
      <X size={13} aria-hidden />
    </button>
  );
}

/** A name that no entry has yet. */
function freshName(record: RecordOf, base: string): string {
  let number = 1;
  while (record[number === 1 ? base : `${base}_${number}`] !== undefined) number += 1;
  return number === 1 ? base : `${base}_${number}`;
}

/** New columns, each with its expression. */
export function Expressions({
  label,
  value,
  aggregate,
  by,
  onChange,
}: {
  readonly label: string;
  readonly value: RecordOf;
  readonly aggregate: boolean;
  readonly by: readonly string[];
  readonly onChange: (value: RecordOf | undefined) => void;
}) {
  const { place, columns } = useForm();
  const add = (): void =>
    onChange({
      ...value,
      [freshName(value, aggregate ? "rows" : "new_column")]: aggregate
        ? "count(*)"
        : (columns.filter((column) => !column.bundle)[0]?.name ?? "1"),
    });
  return (
    <Listed onAdd={add} add={aggregate ? "measure" : "column"}>
      {Object.entries(value).map(([name, text], index) => (
        <div key={index} className="flex items-start gap-2">
          <div className="w-44 shrink-0">
            <TypedText
              label={`Name of ${label} ${index + 1}`}
              value={name}
              onChange={(to) => {
                if (to !== "" && value[to] === undefined) onChange(renameKey(value, name, to));
              }}
            />
          </div>
          <span className="pt-1 text-faded">=</span>
          <div className="min-w-0 flex-1">
            <ExpressionField
              label={name}
              value={String(text)}
              onChange={(to) => onChange({ ...value, [name]: to })}
              place={place}
              columns={columns}
              aggregate={aggregate}
              by={by}
            />
          </div>
          <Remove what={name} onClick={() => onChange(orAbsent(without(value, name)))} />
        </div>
      ))}
    </Listed>
  );
}

/** Columns here, each with something about it. */
export function ByColumn({
  label,
  value,
  onChange,
  initial,
  control,
}: {
  readonly label: string;
  readonly value: RecordOf;
  readonly onChange: (value: RecordOf | undefined) => void;
  readonly initial: string;
  readonly control: (name: string, value: unknown, put: (value: unknown) => void) => ReactNode;
}) {
  const { columns } = useForm();
  const open = asChoices(columns).filter(([name]) => value[name] === undefined);
  return (
    <div className="space-y-1.5">
      {Object.entries(value).map(([name, inner]) => (
        <div key={name} className="flex items-center gap-2">
          <span
            className={`w-44 shrink-0 truncate ${columns.some((column) => column.name === name) ? "" : "text-madder line-through"}`}
            title={name}
          >
            {name}
          </span>
          <span aria-hidden className="text-faded">
            →
          </span>
          {control(name, inner, (to) => onChange({ ...value, [name]: to ?? "" }))}
          <Remove what={name} onClick={() => onChange(orAbsent(without(value, name)))} />
        </div>
      ))}
      <Pick
        label={`Add to ${label}`}
        value=""
        empty="+ column"
        choices={open}
        onChange={(name) => {
          if (name !== "") onChange({ ...value, [name]: initial === "" ? `${name}_2` : initial });
        }}
      />
    </div>
  );
}

/** Columns of both sides, from a list of equal names or a record of different ones. */
function pairsOf(value: unknown): readonly (readonly [string, string])[] {
  if (Array.isArray(value)) return value.map((entry) => [String(entry), String(entry)]);
  if (typeof value !== "object" || value === null) return [];
  return Object.entries(value as RecordOf).map(([left, right]) => [left, String(right)]);
}

/** Pairs of columns that must agree: here and in the other strand. Written as a list while all names are equal. */
export function JoinColumns({
  label,
  value,
  there,
  other,
  onChange,
}: {
  readonly label: string;
  readonly value: unknown;
  readonly there: readonly ColumnHere[];
  readonly other: string;
  readonly onChange: (value: unknown) => void;
}) {
  const { columns } = useForm();
  const pairs = pairsOf(value);
  const put = (next: readonly (readonly [string, string])[]): void => {
    if (next.length === 0) onChange(undefined);
    else
      onChange(
        next.every(([left, right]) => left === right) ? next.map(([left]) => left) : Object.fromEntries(next),
      );
  };
  const proposal =
    columns.find(
      (column) =>
        !pairs.some(([left]) => left === column.name) && there.some((right) => right.name === column.name),
    ) ?? columns[0];
  const add = (): void => {
    if (proposal)
      put([
        ...pairs,
        [proposal.name, there.find((column) => column.name === proposal.name)?.name ?? there[0]?.name ?? ""],
      ]);
  };
  return (
    <Listed onAdd={add} add="pair of columns" disabled={there.length === 0}>
      {pairs.map(([left, right], index) => (
        <div key={index} className="flex items-center gap-2">
          <Pick
            label={`${label}: here ${index + 1}`}
            value={left}
            choices={asChoices(columns)}
            onChange={(to) => put(pairs.map((pair, at) => (at === index ? [to, right] : pair)))}
          />
          <span className="text-faded">equals</span>
          <Pick
            label={`${label}: in ${other} ${index + 1}`}
            value={right}
            choices={asChoices(there)}
            onChange={(to) => put(pairs.map((pair, at) => (at === index ? [left, to] : pair)))}
          />
          <Remove what={left} onClick={() => put(pairs.filter((_, at) => at !== index))} />
        </div>
      ))}
    </Listed>
  );
}

type Found = readonly { readonly value: string; readonly rows: number }[];

/** Takes all values that a column has in the data; too many are refused, with their number. */
function FromData({
  column,
  onFound,
}: {
  readonly column: string;
  readonly onFound: (found: Found) => void;
}) {
  const { surveyed, share } = useDesk();
  const { place } = useForm();
  const { mutate, isPending } = useMutation<Found>({
    mutationFn: () => postJson<Found>("/api/draft/values", { text: surveyed, share, ...place, column }),
    onSuccess: onFound,
    onError: ({ message }) => toast.error("The values could not be read.", { description: message }),
  });
  return (
    <button
      type="button"
      disabled={column === "" || isPending}
      className="press py-0.5"
      onClick={() => mutate()}
    >
      Use all values in the data
    </button>
  );
}

/** A list of values of a column, typed or taken from the data. */
export function ValuesOf({
  label,
  column,
  value,
  onChange,
}: {
  readonly label: string;
  readonly column: string;
  readonly value: readonly unknown[];
  readonly onChange: (value: readonly unknown[]) => void;
}) {
  return (
    <WordsPick label={label} values={value.map(String)} onChange={onChange}>
      <FromData
        column={column}
        onFound={(found) => {
          if (found.length > 0) onChange(found.map((part) => part.value).sort());
        }}
      />
    </WordsPick>
  );
}

/** What each value of a column becomes. */
export function MapOf({
  label,
  column,
  value,
  onChange,
}: {
  readonly label: string;
  readonly column: string;
  readonly value: RecordOf;
  readonly onChange: (value: RecordOf | undefined) => void;
}) {
  const entries = Object.entries(value);
  const constant = (text: string): string | number => (/^-?\d+(\.\d+)?$/.test(text) ? Number(text) : text);
  return (
    <Listed add="value" onAdd={() => onChange({ ...value, [freshName(value, "value")]: "" })}>
      {entries.map(([from, to], index) => (
        <div key={index} className="flex items-center gap-2">
          <div className="w-52">
            <TypedText
              label={`${label}: from ${index + 1}`}
              value={from}
              onChange={(name) => {
                if (value[name] === undefined) onChange(renameKey(value, from, name));
              }}
            />
          </div>
          <span aria-hidden className="text-faded">
            →
          </span>
          <div className="w-52">
            <TypedText
              label={`${label}: to ${index + 1}`}
              value={String(to)}
              onChange={(text) => onChange({ ...value, [from]: constant(text) })}
            />
          </div>
          <Remove what={from} onClick={() => onChange(orAbsent(without(value, from)))} />
        </div>
      ))}
      <FromData
        column={column}
        onFound={(found) =>
          onChange({ ...Object.fromEntries(found.map((part) => [part.value, part.value])), ...value })
        }
      />
    </Listed>
  );
}
