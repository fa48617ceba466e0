"use client";
import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatNumber } from "@/core/format/numbers";
import type { JudgedPage, JudgedRow } from "@/runs/judging/judged-rows";
import { Fragment, useState, type ReactNode } from "react";
import { RowValue } from "./row-value";
import { HiddenHead } from "../basic/hidden-head";

interface Props {
  readonly page: JudgedPage;
  /** Columns that are shown beside key, actual and predicted value. */
  readonly columns: readonly string[];
  readonly withProbabilities: boolean;
  /** Why a row was predicted as it was. */
  readonly reasonsOf: (row: JudgedRow) => ReactNode;
}

/** Scored rows, each of which opens to its reasons. */
export function JudgedRowsTable({ page, columns, withProbabilities, reasonsOf }: Props) {
  const [open, setOpen] = useState<JudgedRow>();
  const classes = withProbabilities ? page.classes : [];
  const wrong = figureColumn(page.rows, (row) => formatNumber(row.wrong));
  const probabilities = classes.map((_, code) =>
    figureColumn(page.rows, (row) => formatNumber(row.probabilities[code])),
  );
  const keys = Object.keys(page.rows[0]?.key ?? {});
  return (
    <div className="overflow-x-auto">
      <table className="sheet" data-testid="judged-rows">
        <thead>
          <tr>
            {keys.map((name) => (
              <th key={name}>{name}</th>
            ))}
            <th>Actual</th>
            <th>Predicted</th>
            <th className="number">Error</th>
            {classes.map((name) => (
              <th key={name} className="number max-w-32 truncate" title={`probability of ${name}`}>
                P({name})
              </th>
            ))}
            {columns.map((name) => (
              <th key={name} className="max-w-40 truncate" title={name}>
                {name}
              </th>
            ))}
            <HiddenHead name="Reasons" />
          </tr>
        </thead>
        <tbody>
          {page.rows.map((row) => {
            const isOpen = open === row;
            return (
              <Fragment key={Object.values(row.key).join("\u0000")}>
                <tr className={isOpen ? "bg-paper" : ""}>
                  {Object.entries(row.key).map(([name, value]) => (
                    <td key={name} className="figure">
                      {value}
                    </td>
                  ))}
                  <td>{row.answer}</td>
                  <td className="figure">{row.prediction}</td>
                  <NumberCell figure={wrong(row)} />
                  {probabilities.map((probability, code) => (
                    <NumberCell key={classes[code]} figure={probability(row)} />
                  ))}
                  {columns.map((name) => (
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
                    <td colSpan={keys.length + columns.length + classes.length + 4}>{reasonsOf(row)}</td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
