"use client";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import { writeKey } from "@/core/pipeline/key-text";
import type { JudgedRow, RowReasons } from "@/runs/judging/judged-rows";
import { PageLink } from "../basic/page-link";
import { usePosted } from "../queries/use-posted";
import { ReasonList } from "./reason-list";

/** Why one row was predicted as it was: parts that add up. */
export function RowReasonsPanel({
  model,
  part,
  pipeline,
  row,
}: {
  readonly model: number;
  readonly part: JudgedPart;
  /** The pipeline in whose Braid the row can be followed. */
  readonly pipeline?: string;
  readonly row: JudgedRow;
}) {
  const { value: found, failure } = usePosted<RowReasons>(
    `/api/models/${model}/reasons?part=${part}`,
    row.key,
  );
  return (
    <section aria-label="Reasons" className="mt-3 border-l-2 border-madder pl-4" data-testid="reasons">
      <h3 className="font-semibold">
        {Object.entries(row.key)
          .map(([name, value]) => `${name} ${value}`)
          .join(", ")}
        : predicted {row.prediction}, was {row.answer}{" "}
        {pipeline !== undefined && (
          <PageLink
            className="ml-3 text-caption font-normal"
            href={`/pipelines/${encodeURIComponent(pipeline)}/braid?follow=${encodeURIComponent(writeKey(Object.values(row.key)))}`}
          >
            follow it in the Braid
          </PageLink>
        )}
      </h3>
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {!found && !failure && (
        <p className="text-faded" role="status">
          computing …
        </p>
      )}
      {found && <ReasonList found={found} />}
    </section>
  );
}
