"use client";
import { useState } from "react";
import { useAnswer } from "../draft/use-answer";
import { learnedLines } from "../basic/learned-lines";
import type { Place } from "./places";
import { Sheet } from "../basic/sheet";

const MOST = 300;

/** What a step learned on all training rows, and on request without each fold in turn. */
export function LearnedPanel({ place, value }: { readonly place: Place; readonly value: unknown }) {
  const [byFold, setByFold] = useState(false);
  const folds = useAnswer<readonly unknown[]>("folds", byFold ? place : undefined);
  const lines = learnedLines(value);
  if (value === null || lines.length === 0) return <p className="text-faded">No learned values.</p>;
  const others = (folds.value ?? []).map(
    (fold) => new Map(learnedLines(fold).map((line) => [line.path, line.value])),
  );
  return (
    <>
      <p className="text-faded">
        Learned from training rows only, stored with each model version and reused unchanged for scoring.{" "}
        <label className="ml-3 text-ink">
          <input
            type="checkbox"
            checked={byFold}
            onChange={(event) => setByFold(event.target.checked)}
            className="mr-1.5 accent-(--woad)"
          />
          without each fold
        </label>
        {byFold && folds.asking && " computing folds …"}
        {folds.failure && <span className="text-madder"> {folds.failure}</span>}
      </p>
      <Sheet className="mt-1 w-auto min-w-[40%]">
        <thead>
          <tr>
            <th>What</th>
            <th>Learned values</th>
            {others.map((_, fold) => (
              <th key={fold}>without fold {fold + 1}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.slice(0, MOST).map((line) => (
            <tr key={line.path}>
              <td className="font-medium">{line.path}</td>
              <td className="figure max-w-xl break-words">{line.value}</td>
              {others.map((other, fold) => (
                <td key={fold} className="figure max-w-60 truncate" title={other.get(line.path)}>
                  {other.get(line.path) ?? "–"}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
        {lines.length > MOST && (
          <tfoot>
            <tr>
              <td colSpan={2} className="text-faded">
                and {lines.length - MOST} more
              </td>
            </tr>
          </tfoot>
        )}
      </Sheet>
    </>
  );
}
