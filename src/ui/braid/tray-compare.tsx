"use client";
import { SkeletonCells } from "../basic/skeleton";
import { formatNumber, formatPart } from "@/core/format/numbers";
import type { Comparison } from "@/runs/draft/compare";
import type { ColumnProfile } from "@/core/evaluate/table-profile";

import { Histogram } from "../charts/histogram";
import { useAnswer } from "../draft/use-answer";
import type { Place } from "./places";
import { Sheet } from "../basic/sheet";

/** Most columns compared at once; a step may write hundreds. */
const MOST = 12;

/** Each touched column's distribution before the step and after it. */
export function BeforeAfter({
  place,
  columns,
}: {
  readonly place: Place;
  readonly columns: readonly string[];
}) {
  if (columns.length === 0)
    return (
      <p className="px-4 py-3 text-faded">
        This step writes no columns. The band above shows how it changes the rows.
      </p>
    );
  return (
    <Sheet className="mx-4 w-[calc(100%-2rem)] table-fixed">
      <thead>
        <tr>
          <th className="w-[18%]">Column</th>
          <th>Before the step</th>
          <th>After it</th>
        </tr>
      </thead>
      <tbody>
        {columns.slice(0, MOST).map((name) => (
          <Line key={name} place={place} name={name} />
        ))}
      </tbody>
      {columns.length > MOST && (
        <tfoot>
          <tr>
            <td colSpan={3} className="text-faded">
              and {columns.length - MOST} more columns
            </td>
          </tr>
        </tfoot>
      )}
    </Sheet>
  );
}

function Line({ place, name }: { readonly place: Place; readonly name: string }) {
  const { value, failure } = useAnswer<Comparison>("compare", { ...place, column: name } as never, 60);
  return (
    <tr>
      <td className="break-words font-medium">{name}</td>
      {failure && (
        <td colSpan={2} className="text-madder">
          {failure}
        </td>
      )}
      {!failure && !value && <SkeletonCells label="counting …" cells={2} />}
      {!failure && value && (
        <>
          <td>
            <Side profile={value.before} absent="not created yet" />
          </td>
          <td>
            <Side profile={value.after} absent="several columns, or removed" />
          </td>
        </>
      )}
    </tr>
  );
}

function Side({ profile, absent }: { readonly profile: ColumnProfile | undefined; readonly absent: string }) {
  if (!profile) return <span className="text-faded">{absent}</span>;
  const shorten = (value: string | null): string => {
    if (value === null) return "–";
    if (/^-?[\d.e+-]+$/.test(value) && value.length > 7) return formatNumber(Number(value));
    return value.slice(0, 19);
  };
  return (
    <div className="flex gap-4">
      <div className="w-44 shrink-0 text-caption">
        <div>
          missing{" "}
          <span className={`figure ${profile.missing > 0 ? "text-madder" : ""}`}>
            {formatPart(profile.missing, profile.rows)}
          </span>
          , distinct <span className="figure">{formatNumber(profile.distinct)}</span>
        </div>
        <div className="figure truncate" title={`${profile.smallest ?? ""} … ${profile.largest ?? ""}`}>
          {shorten(profile.smallest)} … {shorten(profile.largest)}
        </div>
        {profile.quartiles && (
          <div className="truncate text-faded">
            median <span className="figure">{shorten(profile.quartiles[1])}</span>
            {profile.mean !== null && (
              <>
                , mean <span className="figure">{formatNumber(profile.mean)}</span>
              </>
            )}
          </div>
        )}
      </div>
      <div className="min-w-0 flex-1">
        {profile.histogram.length > 0 ? (
          <Histogram bins={profile.histogram} ends />
        ) : (
          <ul className="flex flex-wrap gap-x-3">
            {profile.topValues.map((topValue) => (
              <li key={topValue.value} className="max-w-40 truncate">
                {topValue.value === "" ? "(empty text)" : topValue.value}{" "}
                <span className="figure text-faded">{formatPart(topValue.rows, profile.rows)}</span>
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
