"use client";
import { Plus, X } from "lucide-react";
import type { JoinedColumns } from "@/core/pipeline/proposal/propose-join";
import type { TableOutline } from "@/core/pipeline/proposal/outline";
import type { JoinTableState } from "./use-join-table";
import { Select } from "../../select/select";

function ColumnSelect({
  label,
  value,
  columns,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly columns: readonly { readonly name: string }[];
  readonly onChange: (name: string) => void;
}) {
  return (
    <Select
      label={label}
      className="max-w-64"
      value={value}
      options={columns.map(({ name }) => name)}
      onChange={onChange}
    />
  );
}

/** Which columns agree where rows belong together. */
export function PairFields({
  state,
  outline,
}: {
  readonly state: JoinTableState;
  readonly outline: TableOutline;
}) {
  const { pairs, here, change } = state;
  const put = (index: number, pair: JoinedColumns | undefined): void =>
    change({ pairs: pairs.flatMap((known, place) => (place === index ? (pair ?? []) : known)) });
  const [first, there] = [here[0], outline.columns[0]];
  return (
    <div
      role="group"
      aria-label="Join on"
      className="grid grid-cols-[150px_minmax(0,1fr)] items-baseline gap-4"
    >
      <span>Rows match where</span>
      <div className="space-y-1.5">
        {pairs.map((pair, index) => (
          <div key={index} className="flex items-center gap-2">
            <ColumnSelect
              label={`Column here ${index + 1}`}
              value={pair.here}
              columns={here}
              onChange={(name) => put(index, { ...pair, here: name })}
            />
            <span className="text-faded">equals</span>
            <ColumnSelect
              label={`Column of the table ${index + 1}`}
              value={pair.there}
              columns={outline.columns}
              onChange={(name) => put(index, { ...pair, there: name })}
            />
            <button
              type="button"
              aria-label={`Remove ${pair.here}`}
              className="press press-quiet px-1"
              onClick={() => put(index, undefined)}
            >
              <X size={13} aria-hidden />
            </button>
          </div>
        ))}
        {first && there && (
          <button
            type="button"
            className="press press-quiet px-1 py-0.5"
            onClick={() => change({ pairs: [...pairs, { here: first.name, there: there.name }] })}
          >
            <Plus size={13} aria-hidden />
            pair of columns
          </button>
        )}
      </div>
    </div>
  );
}
