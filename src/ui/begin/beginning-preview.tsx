"use client";
import { Skeleton } from "../basic/skeleton";
import type { ColumnProfile } from "@/core/evaluate/table-profile";
import { formatCount, formatNumber, formatPart } from "@/core/format/numbers";
import { parseTableName } from "@/core/pipeline/table-name";
import { useRead } from "../queries/use-read";
import { BarCell } from "../charts/bar-cell";
import { cellAxis } from "../charts/cell-axis";
import { Histogram } from "../charts/histogram";
import type { Sides } from "../answer/answer-values";
import type { BeginningState } from "./use-beginning";
import { Sheet } from "../basic/sheet";

const ROWS = 10;

interface Page {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
}

/** What stands beside the form: the answer's values, and the first rows of the table. */
export function BeginningPreview({ state }: { readonly state: BeginningState }) {
  const { wishes, outline, answer, answerFailure, beginning, problems } = state;
  const reference = parseTableName(wishes.table);
  const query =
    reference &&
    `schema=${encodeURIComponent(reference.schema)}&table=${encodeURIComponent(reference.table)}&limit=${ROWS}`;
  const { value: page } = useRead<Page>(query && `/api/tables/rows?${query}`);
  const { key } = beginning.pipeline;
  const first = [wishes.answer, ...key];
  const columns = page && [
    ...first.filter((name) => page.columns.includes(name)),
    ...page.columns.filter((name) => !first.includes(name)),
  ];
  return (
    <aside aria-label="Preview" className="min-w-0 space-y-6">
      <section>
        <h2 className="mb-2">Target</h2>
        {answer ? (
          <AnswerValues profile={answer.profile} sides={beginning.sides} />
        ) : (
          <p className="text-faded">
            {beginning.pipeline.table !== "" && wishes.answer !== "" && !problems.has("expression")
              ? (answerFailure ?? "reading values …")
              : "Choose a target to see its values."}
          </p>
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
        {page && columns ? (
          <div className="max-w-full overflow-x-auto border-y border-rule" tabIndex={0}>
            <Sheet className="text-caption">
              <thead>
                <tr>
                  {columns.map((name) => (
                    <th key={name} className="whitespace-nowrap">
                      {name}
                      <span className="block font-normal text-faded">{roleOf(name, wishes.answer, key)}</span>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {page.rows.map((row, index) => (
                  <tr key={index}>
                    {columns.map((name) => {
                      const value = row[page.columns.indexOf(name)];
                      return (
                        <td
                          key={name}
                          className="figure max-w-56 truncate whitespace-nowrap"
                          title={value ?? ""}
                        >
                          {value ?? <span className="text-faded">–</span>}
                        </td>
                      );
                    })}
                  </tr>
                ))}
              </tbody>
            </Sheet>
            {page.rows.length === 0 && <p className="py-2 text-madder">The table is empty.</p>}
          </div>
        ) : (
          <NoRows reading={Boolean(reference)} />
        )}
      </section>
    </aside>
  );
}

/** Where the rows will be: their shape while they are read, or what to do for them. */
const NoRows = ({ reading }: { readonly reading: boolean }) =>
  reading ? (
    <Skeleton label="reading rows …" lines={6} className="" />
  ) : (
    <p className="text-faded">Choose a table to preview its rows.</p>
  );

function roleOf(name: string, answer: string, key: readonly string[]): string {
  if (name === answer) return "target";
  return key.includes(name) ? "key" : " ";
}

/** On which side of yes and no a value is. */
function sideWords(value: string, sides: Sides | undefined): string {
  if (!sides || sides.positive.length === 0) return "";
  if (sides.positive.includes(value)) return " positive";
  if (sides.negative.length === 0) return "";
  return sides.negative.includes(value) ? " negative" : " excluded";
}

/** How the values of an answer are spread: the share of each, or a histogram; and how many rows have none yet. */
function AnswerValues({
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
