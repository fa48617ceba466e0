"use client";
import { useEffect, useRef, useState } from "react";
import { familyOf, type ValueType } from "@/core/value-type";
import type { ColumnProfile } from "@/warehouse/profile";
import { Bars } from "../charts/bars";
import { fetchJson } from "../basic/fetch-json";
import { count, figure, share } from "../basic/format";

export interface SummarisedColumn {
  readonly name: string;
  readonly type: ValueType;
  readonly declared: string;
  readonly keys: readonly string[];
}

/** One line per column: type, keys and a summary that the database computes when the line comes into view. */
export function ColumnSummaries({ schema, table, columns }: { readonly schema: string; readonly table: string; readonly columns: readonly SummarisedColumn[] }) {
  return (
    <table className="sheet table-fixed">
      <thead><tr><th className="w-[21%]">Column</th><th className="number w-[9%]">Missing</th><th className="number w-[9%]">Distinct</th><th className="w-[25%]">Smallest to largest</th><th>Distribution</th></tr></thead>
      <tbody>{columns.map((each) => <Summary key={each.name} schema={schema} table={table} column={each} />)}</tbody>
    </table>
  );
}

function Summary({ schema, table, column }: { readonly schema: string; readonly table: string; readonly column: SummarisedColumn }) {
  const row = useRef<HTMLTableRowElement>(null);
  const [profile, setProfile] = useState<ColumnProfile>();
  const [failure, setFailure] = useState<string>();
  useEffect(() => {
    const watcher = new IntersectionObserver(([entry]) => {
      if (!entry?.isIntersecting) return;
      watcher.disconnect();
      fetchJson<ColumnProfile>(`/api/tables/profile?schema=${encodeURIComponent(schema)}&table=${encodeURIComponent(table)}&column=${encodeURIComponent(column.name)}`)
        .then(setProfile, (error: unknown) => setFailure(error instanceof Error ? error.message : String(error)));
    }, { rootMargin: "300px" });
    if (row.current) watcher.observe(row.current);
    return () => watcher.disconnect();
  }, [schema, table, column.name]);
  return (
    <tr ref={row} data-column={column.name}>
      <td className="break-words"><span className="font-medium">{column.name}</span><br /><span className="text-faded">{column.declared}{column.keys.length > 0 && `, ${column.keys.join(", ")}`}</span></td>
      {failure ? <td colSpan={4} className="text-madder">Could not be summarised. {failure}</td> : !profile ? <td colSpan={4} className="text-faded">counting …</td> : <Figures profile={profile} type={column.type} />}
    </tr>
  );
}

function Figures({ profile, type }: { readonly profile: ColumnProfile; readonly type: ValueType }) {
  const numeric = familyOf(type) === "number";
  const show = (value: string | null): string => (value === null ? "–" : numeric ? (Number.isInteger(Number(value)) ? count(Number(value)) : figure(Number(value), 5)) : value.replace(/^(\d{4}-\d{2}-\d{2}).*$/, "$1"));
  const entirelyMissing = profile.rows > 0 && profile.missing === profile.rows;
  return (
    <>
      <td className={`number ${profile.missing > 0 ? "text-madder" : ""}`}>{profile.rows === 0 ? "–" : share(profile.missing, profile.rows)}</td>
      <td className="number">{count(profile.distinct)}</td>
      <td className="break-words">
        {entirelyMissing ? <span className="text-madder">entirely missing</span> : <span className="figure">{show(profile.smallest)} … {show(profile.largest)}</span>}
        {profile.quartiles && <><br /><span className="text-faded">quartiles <span className="figure">{profile.quartiles.map(show).join(" · ")}</span></span></>}
      </td>
      <td>
        {profile.histogram.length > 0 && <Bars bars={profile.histogram} />}
        {profile.topValues.length > 0 && (
          <ul className="flex flex-wrap gap-x-4 gap-y-0.5">
            {profile.topValues.slice(0, 6).map((each) => <li key={each.value} className="max-w-64 truncate" title={each.value}>{each.value === "" ? "(empty text)" : each.value} <span className="figure text-faded">{share(each.rows, profile.rows)}</span></li>)}
            {profile.distinct > 6 && <li className="text-faded">and {count(profile.distinct - 6)} more</li>}
          </ul>
        )}
      </td>
    </>
  );
}
