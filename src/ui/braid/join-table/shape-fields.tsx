"use client";
import { JOIN_AGGREGATES, type JoinAggregate } from "@/core/pipeline/edit/join-table";
import { JOIN_SHAPES, type JoinShape } from "@/core/pipeline/proposal/propose-join";
import type { JoinTableState } from "./use-join-table";
import { Select } from "../../select/select";

const SHAPES: Readonly<Record<JoinShape, string>> = {
  row: "columns of the matching row",
  spread: "a column per value (pivot)",
  summary: "a summary of matching rows",
};
const AGGREGATES: Readonly<Record<JoinAggregate, string>> = {
  avg: "average",
  sum: "sum",
  min: "least",
  max: "greatest",
  count: "number of rows",
};
const LINE = "grid grid-cols-[150px_minmax(0,1fr)] items-baseline gap-4";

/** What each row here gets of the table's rows. */
export function ShapeFields({ state }: { readonly state: JoinTableState }) {
  const { shape, offered, values, change } = state;
  return (
    <>
      <label className={LINE}>
        <span>Columns to add</span>
        <Select
          label="Columns to add"
          className="max-w-96"
          value={shape}
          options={JOIN_SHAPES.map((name) => ({ value: name, label: SHAPES[name] }))}
          onChange={(name) => change({ shape: name, without: [] })}
        />
      </label>
      {shape !== "row" && <FigureFields state={state} />}
      {shape === "row" && <NameBoxes state={state} label="Columns" names={offered.taken} />}
      {shape === "spread" && <NameBoxes state={state} label="Values" names={values} />}
      {shape === "summary" && state.taken.shape === "summary" && state.taken.aggregate !== "count" && (
        <NameBoxes state={state} label="Columns" names={offered.measured} />
      )}
    </>
  );
}

/** Which figure is made of several rows, and of which columns. */
function FigureFields({ state }: { readonly state: JoinTableState }) {
  const { taken, offered, change } = state;
  if (taken.shape === "row") return null;
  return (
    <div className={LINE}>
      <span>{taken.shape === "spread" ? "Pivot" : "Aggregate"}</span>
      <div className="flex flex-wrap items-baseline gap-2">
        <Select
          label="Aggregate function"
          value={taken.aggregate ?? ""}
          options={JOIN_AGGREGATES.map((name) => ({ value: name, label: AGGREGATES[name] }))}
          onChange={(name) => change({ aggregate: name })}
        />
        {taken.shape === "spread" && (
          <>
            {taken.aggregate !== "count" && (
              <>
                <span className="text-faded">of</span>
                <NameSelect
                  label="Aggregated column"
                  value={taken.column}
                  names={offered.measured}
                  onChange={(column) => change({ column })}
                />
              </>
            )}
            <span className="text-faded">for each value of</span>
            <NameSelect
              label="Column to pivot"
              value={taken.by}
              names={offered.spread}
              onChange={(by) => change({ by, without: [] })}
            />
          </>
        )}
        {taken.shape === "summary" && <span className="text-faded">over matching rows</span>}
      </div>
    </div>
  );
}

function NameSelect({
  label,
  value,
  names,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly names: readonly string[];
  readonly onChange: (name: string) => void;
}) {
  return <Select label={label} className="max-w-56" value={value} options={names} onChange={onChange} />;
}

/** Names that are taken unless their box is unticked. */
function NameBoxes({
  state: { wishes, change },
  label,
  names,
}: {
  readonly state: JoinTableState;
  readonly label: string;
  readonly names: readonly string[];
}) {
  const { without } = wishes;
  const allTaken = without.length === 0;
  return (
    <div className={LINE}>
      <div>
        {label}
        <button
          type="button"
          className="press press-quiet block px-0 py-0 text-caption"
          onClick={() => change({ without: allTaken ? names : [] })}
        >
          {allTaken ? "clear" : "select all"}
        </button>
      </div>
      <div role="group" aria-label={label} className="flex max-h-44 flex-wrap gap-x-5 gap-y-1 overflow-auto">
        {names.map((name) => (
          <label key={name} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-(--woad)"
              checked={!without.includes(name)}
              onChange={(event) =>
                change({
                  without: event.target.checked
                    ? without.filter((other) => other !== name)
                    : [...without, name],
                })
              }
            />
            {name}
          </label>
        ))}
      </div>
    </div>
  );
}
