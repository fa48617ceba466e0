"use client";
import { Skeleton } from "../basic/skeleton";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import type { JudgedPage } from "@/runs/judging/judged-rows";
import { parseAsBoolean, parseAsStringLiteral, useQueryState } from "nuqs";
import { useState } from "react";
import { useFirst } from "../basic/use-first";
import { useRead } from "../queries/use-read";
import { JudgedRowsTable } from "./judged-rows-table";
import { CHOICES, RowChoiceButtons, SegmentFilter } from "./judged-rows-tools";
import { PartChoice, usePart } from "./part-choice";
import { RowReasonsPanel } from "./row-reasons-panel";
import { shownColumns } from "./shown-columns";

/** Columns that are shown at first, and rows on a page. */
const [FEW_COLUMNS, PAGE] = [7, 50];

interface Props {
  readonly model: number;
  readonly pipeline: string;
  readonly columns: readonly string[];
  /** The model's columns, the most important first. */
  readonly matters: readonly string[];
  readonly kind: string;
  /** The parts of rows that can be looked at. */
  readonly parts: readonly JudgedPart[];
  readonly insideFolds: boolean;
  /** Parts whose rows come from another table, and so cannot be followed through the Braid. */
  readonly foreign: readonly JudgedPart[];
}

/** The scored rows of a part: confidently wrong, borderline, or all; of one segment on request. */
export function JudgedRowsView({
  model,
  pipeline,
  columns,
  matters,
  kind,
  parts,
  insideFolds,
  foreign,
}: Props) {
  const [part, setPart] = usePart(parts);
  const [choice, setChoice] = useQueryState("rows", parseAsStringLiteral(CHOICES).withDefault("wrong"));
  const [column, setColumn] = useQueryState("where", { defaultValue: "" });
  const [value, setValue] = useQueryState("is", { defaultValue: "" });
  const [probabilities, setProbabilities] = useQueryState("probabilities", parseAsBoolean.withDefault(false));
  const [offset, setOffset] = useState(0);
  const found = useRead<JudgedPage>(
    `/api/models/${model}/rows?part=${part}&choice=${choice}&offset=${offset}&column=${encodeURIComponent(column)}&value=${encodeURIComponent(value)}`,
  );
  const page = found.value;
  const { shown, showAll } = useFirst(shownColumns(page, matters), FEW_COLUMNS, "columns");
  /** Another choice begins with its first row. */
  const fromFirst =
    <T,>(set: (value: T) => unknown) =>
    (chosen: T): void => {
      setOffset(0);
      void set(chosen);
    };
  return (
    <section aria-label="Scored rows">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2>Scored rows</h2>
        <PartChoice parts={parts} part={part} insideFolds={insideFolds} onChange={fromFirst(setPart)} />
        <RowChoiceButtons choice={choice} isNumber={kind === "number"} onChange={fromFirst(setChoice)} />
        <SegmentFilter
          columns={columns}
          column={column}
          value={value}
          onColumn={fromFirst(setColumn)}
          onValue={fromFirst(setValue)}
        />
        {page && page.rows.length > 0 && showAll}
        {page && page.classes.length > 0 && (
          <label className="flex items-center gap-1.5 text-caption">
            <input
              type="checkbox"
              checked={probabilities}
              onChange={(event) => void setProbabilities(event.target.checked)}
            />
            all probabilities
          </label>
        )}
        {found.asking && page && (
          <span className="text-caption text-faded" role="status">
            reading …
          </span>
        )}
      </div>
      {found.failure && (
        <p role="alert" className="text-madder">
          {found.failure}
        </p>
      )}
      {found.asking && !page && <Skeleton label="reading rows …" lines={12} columns={6} className="" />}
      {page && page.rows.length === 0 && <p className="text-faded">No rows match.</p>}
      {page && page.rows.length > 0 && (
        <JudgedRowsTable
          page={page}
          columns={shown}
          withProbabilities={probabilities}
          reasonsOf={(row) => (
            <RowReasonsPanel
              model={model}
              part={part}
              row={row}
              {...(foreign.includes(part) ? {} : { pipeline })}
            />
          )}
        />
      )}
      <p className="mt-2 flex gap-3">
        {offset > 0 && (
          <button type="button" className="press" onClick={() => setOffset(offset - PAGE)}>
            Previous rows
          </button>
        )}
        {page && page.rows.length === PAGE && (
          <button type="button" className="press" onClick={() => setOffset(offset + PAGE)}>
            Next rows
          </button>
        )}
      </p>
    </section>
  );
}
