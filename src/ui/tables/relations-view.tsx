"use client";
import { Skeleton } from "../basic/skeleton";
import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { parseTableName, writeTableName } from "@/core/pipeline/table-name";
import { formatNumber, formatPart, formatShare } from "@/core/format/numbers";
import { useQueryState } from "nuqs";
import { useState } from "react";
import type { Overlap } from "@/core/questions/overlap";
import type { JoinSuggestions } from "@/warehouse/suggest-joins";
import type { PairView, TargetView } from "@/warehouse/relate-columns";

import { useFirst } from "../basic/use-first";
import { ShareCell } from "../charts/bar-cell";
import { useRead } from "../queries/use-read";
import { PageLink } from "../basic/page-link";
import { Sheet } from "../basic/sheet";
import { Select } from "../select/select";
import { ColumnShape } from "./column-shape";
import { useColumnProfiles } from "./use-column-profiles";

/** Values of a target that are shown at first. */
const FEW_VALUES = 12;

interface Props {
  readonly schema: string;
  readonly table: string;
  readonly columns: readonly { readonly name: string; readonly declared: string }[];
}

function ColumnPick({
  about: { schema, table, columns },
  label,
  value,
  onChange,
}: {
  readonly about: Props;
  readonly label: string;
  readonly value: string | null;
  readonly onChange: (value: string | null) => void;
}) {
  const name = writeTableName({ schema, table });
  const profileOf = useColumnProfiles([name]);
  return (
    <label className="flex items-center gap-2 text-faded">
      {label}
      <Select
        label={label}
        value={value ?? ""}
        options={[
          { value: "", label: "choose a column" },
          ...columns.map((column) => ({
            value: column.name,
            label: `${column.name} (${column.declared})`,
            mark: <ColumnShape profile={profileOf(name, column.name)} />,
          })),
        ]}
        onChange={(chosen) => onChange(chosen === "" ? null : chosen)}
      />
    </label>
  );
}

const base = ({ schema, table }: Props): string =>
  `schema=${encodeURIComponent(schema)}&table=${encodeURIComponent(table)}`;

/** Two columns against each other: darker cells hold more rows. */
export function PairPanel(props: Props) {
  const [x, setX] = useQueryState("x");
  const [y, setY] = useQueryState("y");
  const { value: pair, failure } = useRead<PairView>(
    x && y
      ? `/api/tables/pair?${base(props)}&x=${encodeURIComponent(x)}&y=${encodeURIComponent(y)}`
      : undefined,
  );
  const most = Math.max(1, ...(pair?.counts.flat() ?? []));
  return (
    <section aria-label="Two columns">
      <div className="flex flex-wrap items-center gap-5 py-2">
        <ColumnPick label="horizontal" value={x} about={props} onChange={(value) => void setX(value)} />
        <ColumnPick label="downwards" value={y} about={props} onChange={(value) => void setY(value)} />
      </div>
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {!x || !y ? (
        <p className="text-faded">Choose two columns to see how their values are related.</p>
      ) : (
        !pair && !failure && <Skeleton label="counting pairs …" className="" />
      )}
      {pair && (
        <>
          <p className="pb-2 text-faded">
            {formatNumber(pair.rows)} rows with both values
            {pair.correlation !== null && (
              <>
                ; correlation <span className="figure text-ink">{formatNumber(pair.correlation)}</span>
              </>
            )}
            . Numbers and times are cut into quantile bins.
          </p>
          <div className="overflow-auto">
            <table className="text-caption">
              <thead>
                <tr>
                  <th className="pr-3 text-left font-normal text-faded">
                    {y} ↓ &nbsp; {x} →
                  </th>
                  {pair.x.map((text) => (
                    <th
                      key={text}
                      className="max-w-24 truncate px-1 pb-1 align-bottom font-normal text-faded"
                      title={text}
                    >
                      {text}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {pair.counts.map((row, at) => (
                  <tr key={pair.y[at]}>
                    <th
                      className="max-w-40 truncate pr-3 text-left font-normal text-faded"
                      title={pair.y[at]}
                    >
                      {pair.y[at]}
                    </th>
                    {row.map((cell, index) => (
                      <td
                        key={index}
                        className="figure h-7 min-w-12 border border-linen px-1 text-center"
                        style={{
                          background: `color-mix(in srgb, var(--woad) ${Math.round((75 * cell) / most)}%, var(--paper))`,
                          color: cell / most > 0.55 ? "var(--paper)" : undefined,
                        }}
                      >
                        {cell === 0 ? "" : formatNumber(cell)}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </>
      )}
    </section>
  );
}

/** Every column against a target, the strongest first, with the balance of classes. */
export function TargetPanel(props: Props) {
  const [target, setTarget] = useQueryState("target");
  const { value: view, failure } = useRead<TargetView>(
    target ? `/api/tables/target?${base(props)}&target=${encodeURIComponent(target)}` : undefined,
  );
  const { shown: balance, showAll: allBalance } = useFirst(view?.balance ?? [], FEW_VALUES, "values");
  return (
    <section aria-label="Against a target">
      <div className="py-2">
        <ColumnPick label="target" value={target} about={props} onChange={(value) => void setTarget(value)} />
      </div>
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {!target ? (
        <p className="text-faded">Choose a column to see how well each other column alone predicts it.</p>
      ) : (
        !view && !failure && <Skeleton label="analysing columns …" lines={12} className="" />
      )}
      {view && (
        <>
          {view.balance.length > 0 && (
            <div className="mb-3">
              <h3 className="font-medium">Balance</h3>
              <ul className="flex flex-wrap gap-x-5">
                {balance.map((group) => (
                  <li key={group.value}>
                    {group.value} <span className="figure">{formatPart(group.rows, view.rows)}</span>{" "}
                    <span className="figure text-faded">{formatNumber(group.rows)}</span>
                  </li>
                ))}
              </ul>
              {view.values > view.balance.length && (
                <p className="text-caption text-faded">
                  The {formatNumber(view.balance.length)} most frequent of {formatNumber(view.values)} values.
                </p>
              )}
              {allBalance}
            </div>
          )}
          <Sheet className="table-fixed">
            <thead>
              <tr>
                <th className="w-[20%]">Column</th>
                <th className="w-[22%]">Explains {target}</th>
                <th>Target by value</th>
              </tr>
            </thead>
            <tbody>
              {view.columns.map((column) => (
                <tr key={column.column}>
                  <td className="break-words font-medium">{column.column}</td>
                  <td>
                    <ShareCell share={column.strength} />
                    <span className="figure">{formatShare(column.strength)}</span>
                    {column.strength > 0.9 && (
                      <span className="block text-caption text-madder">May leak the target</span>
                    )}
                  </td>
                  <td className="text-caption">
                    {column.parts.map((part) => (
                      <span key={part.part} className="mr-4 inline-block">
                        <span className="text-faded">{part.part}</span>{" "}
                        <span className="figure">{part.mode ?? formatNumber(part.mean)}</span>
                      </span>
                    ))}
                  </td>
                </tr>
              ))}
            </tbody>
          </Sheet>
          <p className="mt-2 text-caption text-faded">
            Share of the target’s variance (for classes: of misclassification) explained by the column’s bins.
            Missing values are a separate bin.
          </p>
        </>
      )}
    </section>
  );
}

/** Tables that this one can be joined with, measured. */
export function JoinsPanel(props: Props) {
  const [everything, setEverything] = useState(false);
  const { value: found, failure } = useRead<JoinSuggestions>(
    `/api/tables/joins?${base(props)}${everything ? "&all=1" : ""}`,
  );
  if (failure)
    return (
      <p role="alert" className="py-2 text-madder">
        {failure}
      </p>
    );
  if (!found) return <Skeleton label="comparing values with other tables …" className="py-2" />;
  const more = found.left > 0 && (
    <p className="mt-2 text-caption text-faded">
      {formatNumber(found.left)} more pairs of columns with the same name and type were not compared.{" "}
      <button type="button" className="underline" onClick={() => setEverything(true)}>
        Compare all
      </button>
    </p>
  );
  if (found.found.length === 0)
    return (
      <>
        <p className="py-2 text-faded">No other table has a column with the same name and values.</p>
        {more}
      </>
    );
  const here = figureColumn(found.found, ({ overlap }) => formatShare(overlap?.matchedHere));
  const there = figureColumn(found.found, ({ overlap }) => formatShare(overlap?.matchedThere));
  return (
    <>
      <Sheet className="mt-2 table-fixed">
        <thead>
          <tr>
            <th className="w-[24%]">With</th>
            <th className="w-[16%]">Where</th>
            <th className="w-[13%]">Reason</th>
            <th className="number w-[10%]">Matched here</th>
            <th className="number w-[10%]">Matched there</th>
            <th>Rows there per row</th>
          </tr>
        </thead>
        <tbody>
          {found.found.map((suggestion) => {
            const { schema, table: name } = parseTableName(suggestion.table) ?? {
              schema: "",
              table: suggestion.table,
            };
            return (
              <tr key={JSON.stringify([suggestion.table, suggestion.columns])}>
                <td>
                  <PageLink
                    className="font-medium"
                    href={`/tables/${encodeURIComponent(schema)}/${encodeURIComponent(name)}`}
                  >
                    {suggestion.table}
                  </PageLink>
                </td>
                <td className="figure">
                  {suggestion.columns
                    .map((pair) => (pair.here === pair.there ? pair.here : `${pair.here} = ${pair.there}`))
                    .join(", ")}
                </td>
                <td>{suggestion.because}</td>
                <NumberCell figure={here(suggestion)} />
                <NumberCell figure={there(suggestion)} />
                <td>
                  {suggestion.overlap ? (
                    <RowsForOne overlap={suggestion.overlap} />
                  ) : (
                    "not measured: it took too long"
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Sheet>
      {more}
    </>
  );
}

/** How many rows there belong to one row here, and the other way round. */
function RowsForOne({ overlap: { mostHere, mostThere } }: { readonly overlap: Overlap }) {
  if (mostThere > 1)
    return <span className="text-madder">up to {formatNumber(mostThere)} rows: rows would multiply</span>;
  return (
    <>
      at most one
      {mostHere > 1 && <span className="text-faded">; up to {formatNumber(mostHere)} share a row</span>}
    </>
  );
}
