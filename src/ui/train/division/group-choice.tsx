"use client";
import { useState } from "react";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import { formatNumber } from "@/core/format/numbers";
import { Mistake } from "./part-fields";
import type { ValueRows } from "@/runs/draft/division";

type Scalar = string | number | boolean;

/** From how many groups on they are found by typing. */
const MANY = 12;

interface Props {
  /** The column whose values are groups. */
  readonly column: string;
  readonly groups: readonly ValueRows[];
  /** Groups that are not listed. */
  readonly more: number;
  readonly held: readonly Scalar[];
  readonly closed: readonly Scalar[];
  /** The parts that groups can be put into by name. */
  readonly choices: readonly JudgedPart[];
  readonly onChange: (held: readonly Scalar[], closed: readonly Scalar[]) => void;
  readonly mistake: string | undefined;
  /** How a value is written in the file: as the column has it. */
  readonly valueOf: (text: string) => Scalar;
}

const TITLES: Readonly<Record<JudgedPart, string>> = {
  training: "training",
  holdout: "holdout",
  blind: "blind holdout",
};

/** The groups of a column, each of which is for training, the holdout or the blind holdout. */
export function GroupChoice({
  column,
  groups,
  more,
  held,
  closed,
  choices,
  mistake,
  onChange,
  valueOf,
}: Props) {
  const [typed, setTyped] = useState("");
  const rows = new Map<string, number>();
  for (const { value, rows: count } of groups)
    if (value !== null) rows.set(value, (rows.get(value) ?? 0) + count);
  // What the file names stays in the list, also where the rows have no such group.
  for (const name of [...held, ...closed]) if (!rows.has(String(name))) rows.set(String(name), 0);
  const named = (list: readonly Scalar[], name: string): boolean =>
    list.some((known) => String(known) === name);
  const partOf = (name: string): JudgedPart => {
    if (named(closed, name)) return "blind";
    return named(held, name) ? "holdout" : "training";
  };
  const without = (list: readonly Scalar[], name: string): readonly Scalar[] =>
    list.filter((known) => String(known) !== name);
  const choose = (name: string, part: JudgedPart): void => {
    const [others, othersClosed] = [without(held, name), without(closed, name)];
    onChange(
      part === "holdout" ? [...others, valueOf(name)] : others,
      part === "blind" ? [...othersClosed, valueOf(name)] : othersClosed,
    );
  };
  const wanted = typed.trim().toLowerCase();
  const shown = [...rows]
    .filter(([name]) => name.toLowerCase().includes(wanted))
    .sort(([left], [right]) => left.localeCompare(right, "en", { numeric: true }));
  return (
    <fieldset className="mb-3 mt-2">
      <legend className="text-caption text-faded">
        Groups by {column}
        {more > 0 ? `; ${formatNumber(more)} more are too small to be listed` : ""}
      </legend>
      <Mistake says={mistake} />
      {rows.size > MANY && (
        <input
          type="search"
          aria-label="Find a group"
          className="field mb-1 w-56"
          placeholder="find a group"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      )}
      <div className="max-h-56 overflow-y-auto border-y border-rule" tabIndex={0}>
        <table className="sheet w-full text-caption">
          <tbody>
            {shown.map(([name, count]) => (
              <tr key={name}>
                <td className="max-w-52 truncate" title={name}>
                  {name === "" ? "(empty)" : name}
                </td>
                <td className="number text-faded">{formatNumber(count)}</td>
                <td className="whitespace-nowrap">
                  {(["training", ...choices] as const).map((part) => (
                    <label key={part} className="mr-3 inline-flex items-center gap-1">
                      <input
                        type="radio"
                        name={`group ${name}`}
                        aria-label={`${name} ${TITLES[part]}`}
                        checked={partOf(name) === part}
                        onChange={() => choose(name, part)}
                      />
                      {TITLES[part]}
                    </label>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {shown.length === 0 && <p className="py-1 text-caption text-faded">No group has that name.</p>}
      </div>
    </fieldset>
  );
}
