"use client";
import { writeKey } from "@/core/pipeline/key-text";
import { formatNumber } from "@/core/format/numbers";
import { parseAsBoolean, parseAsStringLiteral, useQueryState } from "nuqs";
import { Fragment, useEffect, useState } from "react";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import type { JudgedPage, JudgedRow, RowReasons } from "@/runs/judging/judged-rows";
import { postJson } from "../basic/fetch-json";

import { useFirst } from "../basic/use-first";
import { useRead } from "../basic/use-read";
import { PartChoice, usePart } from "./part-choice";
import { ReasonList } from "./reason-list";
import { RowValue } from "./row-value";
import { PageLink } from "../basic/page-link";

/** Columns that are shown at first. */
const FEW_COLUMNS = 7;
const CHOICES = ["wrong", "borderline", "all"] as const;
const NAMES = { wrong: "confidently wrong", borderline: "borderline", all: "all rows" } as const;

/** The scored rows of a part: the surely wrong, the borderline, or all; of one segment on request. A row tells its reasons, and leads back into the Braid. */
export function JudgedRowsView({
  model,
  pipeline,
  columns,
  matters,
  kind,
  parts,
  insideFolds,
  foreign,
}: {
  readonly model: number;
  readonly pipeline: string;
  readonly columns: readonly string[];
  /** Columns that matter to the model, the one that matters most first. */
  readonly matters: readonly string[];
  readonly kind: string;
  /** The parts of rows that can be looked at. */
  readonly parts: readonly JudgedPart[];
  readonly insideFolds: boolean;
  /** Parts whose rows come from another table, and so cannot be followed through the Braid. */
  readonly foreign: readonly JudgedPart[];
}) {
  const [part, setPart] = usePart(parts);
  const [choice, setChoice] = useQueryState("rows", parseAsStringLiteral(CHOICES).withDefault("wrong"));
  const [column, setColumn] = useQueryState("where", { defaultValue: "" });
  const [value, setValue] = useQueryState("is", { defaultValue: "" });
  const [withProbabilities, setWithProbabilities] = useQueryState(
    "probabilities",
    parseAsBoolean.withDefault(false),
  );
  const [typed, setTyped] = useState(value);
  const [offset, setOffset] = useState(0);
  const [open, setOpen] = useState<JudgedRow>();
  const {
    value: page,
    failure,
    asking,
  } = useRead<JudgedPage>(
    `/api/models/${model}/rows?part=${part}&choice=${choice}&offset=${offset}&column=${encodeURIComponent(column)}&value=${encodeURIComponent(value)}`,
  );
  const { shown, showAll } = useFirst(shownColumns(page, matters), FEW_COLUMNS, "columns");
  return (
    <section aria-label="Scored rows">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2>Scored rows</h2>
        <PartChoice
          parts={parts}
          part={part}
          insideFolds={insideFolds}
          onChange={(chosen) => {
            setOffset(0);
            setPart(chosen);
          }}
        />
        <div role="group" aria-label="Which rows" className="flex">
          {CHOICES.filter((each) => kind !== "number" || each !== "borderline").map((each) => (
            <button
              key={each}
              type="button"
              className={`press -ml-px rounded-none ${choice === each ? "press-main" : ""}`}
              aria-pressed={choice === each}
              onClick={() => {
                setOffset(0);
                void setChoice(each);
              }}
            >
              {kind === "number" && each === "wrong" ? "largest errors" : NAMES[each]}
            </button>
          ))}
        </div>
        <form
          className="flex items-center gap-2 text-sm text-faded"
          onSubmit={(event) => {
            event.preventDefault();
            setOffset(0);
            void setValue(typed);
          }}
        >
          where
          <select
            aria-label="Segment column"
            className="field text-ink"
            value={column}
            onChange={(event) => {
              setOffset(0);
              void setColumn(event.target.value);
            }}
          >
            <option value="">any row</option>
            {columns.map((each) => (
              <option key={each} value={each}>
                {each}
              </option>
            ))}
          </select>
          {column !== "" && (
            <>
              is{" "}
              <input
                aria-label="Segment value"
                className="field w-32"
                value={typed}
                placeholder="(missing)"
                onChange={(event) => setTyped(event.target.value)}
              />
              <button type="submit" className="press">
                Show
              </button>
            </>
          )}
        </form>
        {page && page.rows.length > 0 && showAll}
        {page && page.classes.length > 0 && (
          <label className="flex items-center gap-1.5 text-sm">
            <input
              type="checkbox"
              checked={withProbabilities}
              onChange={(event) => void setWithProbabilities(event.target.checked)}
            />
            all probabilities
          </label>
        )}
        {asking && (
          <span className="text-sm text-faded" role="status">
            reading …
          </span>
        )}
      </div>
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {page && page.rows.length === 0 && <p className="text-faded">No rows match.</p>}
      {page && page.rows.length > 0 && (
        <div className="overflow-x-auto">
          <table className="sheet" data-testid="judged-rows">
            <thead>
              <tr>
                {Object.keys(page.rows[0]!.key).map((name) => (
                  <th key={name}>{name}</th>
                ))}
                <th>Actual</th>
                <th>Predicted</th>
                <th className="number">{kind === "number" ? "Error" : "Error"}</th>
                {withProbabilities &&
                  page.classes.map((name) => (
                    <th key={name} className="number max-w-32 truncate" title={`probability of ${name}`}>
                      P({name})
                    </th>
                  ))}
                {shown.map((name) => (
                  <th key={name} className="max-w-40 truncate" title={name}>
                    {name}
                  </th>
                ))}
                <th />
              </tr>
            </thead>
            <tbody>
              {page.rows.map((row) => {
                const isOpen = open === row;
                return (
                  <Fragment key={Object.values(row.key).join("\u0000")}>
                    <tr className={isOpen ? "bg-paper" : ""}>
                      {Object.entries(row.key).map(([name, each]) => (
                        <td key={name} className="figure">
                          {each}
                        </td>
                      ))}
                      <td>{row.answer}</td>
                      <td className="figure">{row.prediction}</td>
                      <td className="number">{formatNumber(row.wrong)}</td>
                      {withProbabilities &&
                        row.probabilities.map((probability, code) => (
                          <td key={page.classes[code]} className="number">
                            {formatNumber(probability)}
                          </td>
                        ))}
                      {shown.map((name) => (
                        <RowValue key={name} row={row} column={name} />
                      ))}
                      <td>
                        <button
                          type="button"
                          className="underline"
                          aria-expanded={isOpen}
                          onClick={() => setOpen(isOpen ? undefined : row)}
                        >
                          reasons
                        </button>
                      </td>
                    </tr>
                    {isOpen && (
                      <tr className="bg-paper">
                        <td colSpan={shown.length + 5 + (withProbabilities ? page.classes.length : 0)}>
                          <Reasons
                            model={model}
                            part={part}
                            row={row}
                            {...(foreign.includes(part) ? {} : { pipeline })}
                          />
                        </td>
                      </tr>
                    )}
                  </Fragment>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      <p className="mt-2 flex gap-3">
        {offset > 0 && (
          <button type="button" className="press" onClick={() => setOffset(offset - 50)}>
            Previous rows
          </button>
        )}
        {page && page.rows.length === 50 && (
          <button type="button" className="press" onClick={() => setOffset(offset + 50)}>
            Next rows
          </button>
        )}
      </p>
    </section>
  );
}

/** Columns that matter most first, the others behind them in their own order; an encoded category once, as it was before. */
function shownColumns(page: JudgedPage | undefined, matters: readonly string[]): readonly string[] {
  const first = page?.rows[0];
  if (!first) return [];
  const encoded = Object.keys(first.originals).filter((name) => !(name in first.values));
  const shownAs = (name: string): string => encoded.find((source) => name.startsWith(`${source}=`)) ?? name;
  const ranks = new Map<string, number>();
  matters.forEach((name, rank) => {
    if (!ranks.has(shownAs(name))) ranks.set(shownAs(name), rank);
  });
  const rankOf = (name: string): number => ranks.get(name) ?? matters.length;
  return [...new Set(page.columns.map(shownAs))].sort((left, right) => rankOf(left) - rankOf(right));
}

/** Why one row was predicted as it was: parts that add up. */
function Reasons({
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
  const [found, setFound] = useState<RowReasons>();
  const [failure, setFailure] = useState<string>();
  useEffect(() => {
    const stop = new AbortController();
    setFound(undefined);
    postJson<RowReasons>(`/api/models/${model}/reasons?part=${part}`, row.key, stop.signal).then(
      setFound,
      (error: unknown) => {
        if (!stop.signal.aborted) setFailure(error instanceof Error ? error.message : String(error));
      },
    );
    return () => stop.abort();
  }, [model, part, row]);
  return (
    <section aria-label="Reasons" className="mt-3 border-l-2 border-madder pl-4" data-testid="reasons">
      <h3 className="font-semibold">
        {Object.entries(row.key)
          .map(([name, value]) => `${name} ${value}`)
          .join(", ")}
        : predicted {row.prediction}, was {row.answer}{" "}
        {pipeline !== undefined && (
          <PageLink
            className="ml-3 text-sm font-normal"
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
