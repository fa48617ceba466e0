"use client";
import { formatDuration, formatNumber, formatPart } from "@/core/format/numbers";
import { useEffect, useState } from "react";
import type { ColumnProfile, ColumnRemarks, TableProfile } from "@/core/evaluate/table-profile";
import { familyOf, type ValueType } from "@/core/value-type";
import { askProfile, scheduleProfile } from "@/server/table-actions";
import { fetchJson } from "../basic/fetch-json";
import { moment } from "../basic/format";
import { useFirst } from "../basic/use-first";
import { Histogram } from "../charts/histogram";
import { EditableWords } from "./editable-words";
import { tellProblems } from "../basic/tell-problems";

export interface DescribedColumn {
  readonly name: string;
  readonly type: ValueType;
  readonly declared: string;
  readonly keys: readonly string[];
  readonly description: string | null;
}

interface Kept {
  readonly profile: TableProfile | null;
  readonly profiledAt: string | null;
  readonly problem: string | null;
  readonly refreshHours: number | null;
  readonly underWay: boolean;
}

const POLL_MILLISECONDS = 1000;
/** Frequent values, and groups of spellings, that are shown at first. */
const [FEW_VALUES, FEW_SPELLINGS] = [5, 3];
const EVERY = [
  ["", "on request"],
  ["1", "every hour"],
  ["24", "every day"],
  ["168", "every week"],
] as const;

/** All columns of a table with what their values were found to be, and when. */
export function ProfileView({
  schema,
  table,
  columns,
  changedAt,
}: {
  readonly schema: string;
  readonly table: string;
  readonly columns: readonly DescribedColumn[];
  readonly changedAt: string | null;
}) {
  const [kept, setKept] = useState<Kept>();
  const [failure, setFailure] = useState<string>();
  const [round, setRound] = useState(0);
  const query = `schema=${encodeURIComponent(schema)}&table=${encodeURIComponent(table)}`;
  const ask = async (): Promise<void> => {
    const outcome = await askProfile({ schema, table });
    if (!outcome.ok) tellProblems(outcome.problems);
    setRound((now) => now + 1);
  };
  useEffect(() => {
    let stopped = false;
    let timer: ReturnType<typeof setTimeout>;
    const look = async (first: boolean): Promise<void> => {
      const found = await fetchJson<Kept>(`/api/tables/profile?${query}`).catch((error: unknown) => {
        setFailure(error instanceof Error ? error.message : String(error));
        return undefined;
      });
      if (stopped || !found) return;
      setKept(found);
      // A table that was never looked at is looked at now.
      if (first && !found.profile && !found.underWay && !found.problem) await askProfile({ schema, table });
      if (found.underWay || !found.profile) timer = setTimeout(() => void look(false), POLL_MILLISECONDS);
    };
    void look(true);
    return () => {
      stopped = true;
      clearTimeout(timer);
    };
  }, [query, schema, table, round]);
  const profile = kept?.profile;
  const stale = kept?.profiledAt && changedAt && new Date(changedAt) > new Date(kept.profiledAt);
  return (
    <>
      <div className="flex items-center gap-3 pb-2 pt-1 text-sm text-faded">
        <span role="status">
          {failure ? (
            <span className="text-madder">{failure}</span>
          ) : kept?.problem ? (
            <span className="text-madder">The profile could not be taken. {kept.problem}</span>
          ) : !kept || (!profile && !failure) ? (
            "profiling all rows …"
          ) : (
            <>
              Profile of {formatNumber(profile?.rows)} rows, taken {moment(kept.profiledAt)} in{" "}
              {formatDuration(profile?.took ?? 0)}
              {kept.underWay && ", refreshing …"}
              {stale && <span className="text-madder">; the table has changed since</span>}
            </>
          )}
        </span>
        <button type="button" className="press py-0.5" disabled={kept?.underWay} onClick={() => void ask()}>
          Refresh
        </button>
        <label className="flex items-center gap-1.5">
          automatic refresh
          <select
            aria-label="Automatic profile refresh"
            className="field py-0"
            value={kept?.refreshHours ?? ""}
            onChange={(event) =>
              void scheduleProfile(
                { schema, table },
                event.target.value === "" ? null : Number(event.target.value),
              ).then(() => setRound((now) => now + 1))
            }
          >
            {EVERY.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </select>
        </label>
      </div>
      <table className="sheet table-fixed">
        <thead>
          <tr>
            <th className="w-[24%]">Column</th>
            <th className="number w-[8%]">Missing</th>
            <th className="number w-[9%]">Distinct</th>
            <th className="w-[21%]">Range</th>
            <th className="w-[22%]">Distribution</th>
            <th>Notes</th>
          </tr>
        </thead>
        <tbody>
          {columns.map((column) => {
            const found = profile?.columns.find((each) => each.column === column.name);
            return (
              <tr key={column.name} data-column={column.name}>
                <td className="break-words">
                  <span className="font-medium">{column.name}</span>{" "}
                  <span className="text-faded">
                    {column.declared}
                    {column.keys.length > 0 && `, ${column.keys.join(", ")}`}
                  </span>
                  <br />
                  <EditableWords
                    schema={schema}
                    table={table}
                    column={column.name}
                    words={column.description}
                    empty="describe"
                  />
                </td>
                {found ? (
                  <Figures profile={found} type={column.type} remarks={found.remarks} />
                ) : (
                  <td colSpan={5} className="text-faded">
                    {profile ? "new since the profile" : "counting …"}
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

function Figures({
  profile,
  type,
  remarks,
}: {
  readonly profile: ColumnProfile;
  readonly type: ValueType;
  readonly remarks: ColumnRemarks;
}) {
  const numeric = familyOf(type) === "number";
  const { shown: values, showAll: allValues } = useFirst(profile.topValues, FEW_VALUES, "frequent values");
  const { shown: spellings, showAll: allSpellings } = useFirst(
    remarks.spellings ?? [],
    FEW_SPELLINGS,
    "groups of spellings",
  );
  const show = (value: string | null): string =>
    value === null
      ? "–"
      : numeric
        ? Number.isInteger(Number(value))
          ? formatNumber(Number(value))
          : formatNumber(Number(value))
        : value.replace(/^(\d{4}-\d{2}-\d{2}).*$/, "$1").slice(0, 40);
  const entirelyMissing = profile.rows > 0 && profile.missing === profile.rows;
  return (
    <>
      <td className={`number ${profile.missing > 0 ? "text-madder" : ""}`}>
        {profile.rows === 0 ? "–" : formatPart(profile.missing, profile.rows)}
      </td>
      <td className="number">{formatNumber(profile.distinct)}</td>
      <td className="break-words">
        {entirelyMissing ? (
          <span className="text-madder">entirely missing</span>
        ) : (
          <span className="figure">
            {show(profile.smallest)} … {show(profile.largest)}
          </span>
        )}
        {profile.quartiles && (
          <>
            <br />
            <span className="text-faded">
              quartiles <span className="figure">{profile.quartiles.map(show).join(" · ")}</span>
            </span>
          </>
        )}
        {remarks.lengths && !entirelyMissing && (
          <>
            <br />
            <span className="text-faded">
              length{" "}
              <span className="figure">
                {remarks.lengths.shortest} · {remarks.lengths.median} · {remarks.lengths.longest}
              </span>
            </span>
          </>
        )}
      </td>
      <td>
        {remarks.months && remarks.months.length > 1 ? (
          <Histogram
            bins={remarks.months.map((each) => ({ from: each.month, to: each.month, rows: each.rows }))}
            width={196}
          />
        ) : (
          profile.histogram.length > 0 && <Histogram bins={profile.histogram} width={196} />
        )}
        {profile.topValues.length > 0 && (
          <ul className="flex flex-wrap gap-x-3 gap-y-0.5">
            {values.map((each) => (
              <li key={each.value} className="max-w-44 truncate" title={each.value}>
                {each.value === "" ? "(empty text)" : each.value}{" "}
                <span className="figure text-faded">{formatPart(each.rows, profile.rows)}</span>
              </li>
            ))}
            {profile.distinct > values.length && (
              <li className="text-faded">and {formatNumber(profile.distinct - values.length)} more</li>
            )}
            {allValues && <li>{allValues}</li>}
          </ul>
        )}
      </td>
      <td className="text-sm">
        {remarks.likelyKey && <p>All values distinct: a likely key.</p>}
        {remarks.constant && !entirelyMissing && <p className="text-madder">Constant value.</p>}
        {remarks.outliers && remarks.outliers.rows > 0 && (
          <p className="text-madder">
            {formatNumber(remarks.outliers.rows)} outliers, below {formatNumber(remarks.outliers.below)} or
            above {formatNumber(remarks.outliers.above)}.
          </p>
        )}
        {remarks.lengths && remarks.lengths.empty > 0 && (
          <p className="text-madder">{formatNumber(remarks.lengths.empty)} empty texts.</p>
        )}
        {spellings.map((group) => (
          <p key={group[0]?.value} className="text-madder">
            Possible spelling variants:{" "}
            {group.map((spelling) => `“${spelling.value}” ${formatNumber(spelling.rows)}`).join(", ")}
          </p>
        ))}
        {allSpellings}
      </td>
    </>
  );
}
