"use client";
import { Skeleton } from "../basic/skeleton";
import { formatNumber, formatPart } from "@/core/format/numbers";
import type { JoinDiagnosis, JoinSide } from "@/runs/draft/diagnose-join";
import type { Page } from "@/core/questions/page";

import { useAnswer } from "../draft/use-answer";
import type { Place } from "./places";

/** How well the two sides of a join fit: matched and unmatched rows of both, and keys that occur several times. */
export function JoinPanel({ place }: { readonly place: Place }) {
  const { value, failure, asking } = useAnswer<JoinDiagnosis>("join", place, 60);
  if (failure)
    return (
      <p role="alert" className="px-4 py-3 text-madder">
        The join could not be analysed. {failure}
      </p>
    );
  if (!value) return <Skeleton label="matching both sides …" columns={3} />;
  const { here, there, repeated } = value;
  return (
    <div
      className={`grid grid-cols-3 gap-8 px-4 py-2 ${asking ? "cursor-progress" : ""}`}
      data-testid="join-diagnosis"
    >
      <Side side={here} words="here" />
      <Side side={there} words="there" />
      <section>
        <h3 className="font-semibold">Keys with several rows in {there.name}</h3>
        {repeated.keys === 0 ? (
          <p className="mt-1">
            None: each row matches at most one. <span className="text-faded">Rows do not multiply.</span>
          </p>
        ) : (
          <>
            <p className="mt-1 text-madder">
              <span className="figure">{formatNumber(repeated.keys)}</span> keys; the most frequent has{" "}
              <span className="figure">{formatNumber(repeated.most)}</span> rows. Matching rows multiply.
            </p>
            <Keys page={repeated.sample} />
          </>
        )}
      </section>
    </div>
  );
}

function Side({ side, words }: { readonly side: JoinSide; readonly words: string }) {
  const matched = side.rows - side.unmatched;
  return (
    <section>
      <h3 className="font-semibold">
        {side.name} <span className="font-normal text-faded">({words})</span>
      </h3>
      <svg
        width="100%"
        height="10"
        className="mt-1.5 block"
        role="img"
        aria-label={`${formatPart(matched, side.rows)} of ${side.name} matched`}
      >
        <rect width="100%" height="10" fill="var(--weft)" />
        <rect
          width={`${side.rows === 0 ? 0 : (100 * matched) / side.rows}%`}
          height="10"
          fill="var(--woad)"
        />
      </svg>
      <p className="mt-1">
        <span className="figure">{formatNumber(matched)}</span> of{" "}
        <span className="figure">{formatNumber(side.rows)}</span> rows match ({formatPart(matched, side.rows)}
        )
      </p>
      {side.unmatched === 0 ? (
        <p className="text-faded">All rows match.</p>
      ) : (
        <>
          <p className="text-madder">
            <span className="figure">{formatNumber(side.unmatched)}</span> have no match. Their keys, by
            frequency:
          </p>
          <Keys page={side.sample} />
        </>
      )}
    </section>
  );
}

function Keys({ page }: { readonly page: Page }) {
  return (
    <table className="figure mt-1 text-caption">
      <thead>
        <tr>
          {page.columns.map((name) => (
            <th
              key={name}
              className={`pr-6 font-normal text-faded ${name === "rows" ? "text-right" : "text-left"}`}
            >
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {page.rows.map((row, index) => (
          <tr key={index}>
            {row.map((cell, at) => (
              <td
                key={at}
                className={`max-w-48 truncate pr-6 ${page.columns[at] === "rows" ? "text-right" : ""}`}
              >
                {cell ?? <i className="text-faded">missing</i>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
