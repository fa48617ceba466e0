"use client";
import { Skeleton } from "../basic/skeleton";
import type { ColumnProfile } from "@/core/evaluate/table-profile";
import { formatCount, formatNumber, formatPart } from "@/core/format/numbers";
import { BarCell } from "../charts/bar-cell";
import { cellAxis } from "../charts/cell-axis";
import { Histogram } from "../charts/histogram";
import type { Sides } from "../target/target-values";
import type { NewPipelineForm } from "./use-new-pipeline";
import { FirstRows } from "./first-rows";

/** What stands beside the form: the target's values, and the first rows of the table. */
export function NewPipelinePreview({ state }: { readonly state: NewPipelineForm }) {
  const { choices, outline, profile, profileFailure, proposal, findings } = state;
  return (
    <aside aria-label="Preview" className="min-w-0 space-y-6">
      <section>
        <h2 className="mb-2">Target</h2>
        {profile ? (
          <TargetValues profile={profile.profile} sides={proposal.sides} />
        ) : (
          <NoValues
            isChosen={choices.table !== "" && choices.target !== "" && !findings.expression}
            failure={profileFailure}
          />
        )}
      </section>
      <section>
        <h2 className="mb-2">
          First rows{" "}
          {outline && (
            <span className="text-caption font-normal text-faded">
              {outline.whole
                ? `of ${formatNumber(outline.rows)}`
                : `missing values counted in ${formatNumber(outline.rows)} of them`}
              , {formatCount(outline.columns.length, "column")}
            </span>
          )}
        </h2>
        <FirstRows table={choices.table} target={choices.target} proposedKey={proposal.pipeline.key} />
      </section>
    </aside>
  );
}

/** Where the target's values will be: their shape while they are read, why they cannot be, or what to do for them. */
function NoValues({
  isChosen,
  failure,
}: {
  readonly isChosen: boolean;
  readonly failure: string | undefined;
}) {
  if (!isChosen) return <p className="text-faded">Choose a target to see its values.</p>;
  if (failure !== undefined) return <p className="text-faded">{failure}</p>;
  return <Skeleton label="reading values …" lines={4} columns={3} className="" />;
}

/** On which side of yes and no a value is. */
function sideWords(value: string, sides: Sides | undefined): string {
  if (!sides || sides.positive.length === 0) return "";
  if (sides.positive.includes(value)) return " positive";
  if (sides.negative.length === 0) return "";
  return sides.negative.includes(value) ? " negative" : " excluded";
}

/** How the values of a target are spread: the share of each, or a histogram; and how many rows have none yet. */
function TargetValues({
  profile,
  sides,
}: {
  readonly profile: ColumnProfile;
  readonly sides: Sides | undefined;
}) {
  const { rows, missing, topValues, distinct, histogram } = profile;
  const known = rows - missing;
  const axis = cellAxis({ title: "rows" }, [0, ...topValues.map((top) => top.rows)]);
  return (
    <>
      {topValues.length > 0 && (
        <table className="w-full max-w-md text-caption" aria-label="Shares of target values">
          <tbody>
            {topValues.map((top) => (
              <tr key={top.value} data-value={top.value}>
                <td className="max-w-44 truncate py-0.5 pr-3" title={top.value}>
                  {top.value === "" ? "(empty text)" : top.value}
                  <span className="text-faded">{sideWords(top.value, sides)}</span>
                </td>
                <td className="pr-3">
                  <BarCell axis={axis} value={top.rows} />
                </td>
                <td className="figure whitespace-nowrap text-right">{formatNumber(top.rows)}</td>
                <td className="figure whitespace-nowrap pl-3 text-right">{formatPart(top.rows, known)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {distinct > topValues.length && topValues.length > 0 && (
        <p className="text-caption text-faded">
          and {formatCount(distinct - topValues.length, "other value")}
        </p>
      )}
      {histogram.length > 0 && <Histogram bins={histogram} width={420} height={80} ends />}
      <p className="mt-1 text-caption">
        {formatCount(known, "row")} with a target to train on,{" "}
        {missing === 0 ? "none without one to score" : `${formatNumber(missing)} without one to score`}.
      </p>
    </>
  );
}
