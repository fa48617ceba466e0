import { useState } from "react";
import { Select } from "../select/select";

export const CHOICES = ["wrong", "borderline", "all"] as const;
export type RowChoice = (typeof CHOICES)[number];
const NAMES = { wrong: "confidently wrong", borderline: "borderline", all: "all rows" } as const;

/** Which of the scored rows are shown: the worst, those near the threshold, or all. */
export function RowChoiceButtons({
  choice,
  isNumber,
  onChange,
}: {
  readonly choice: RowChoice;
  readonly isNumber: boolean;
  readonly onChange: (choice: RowChoice) => void;
}) {
  const nameOf = (name: RowChoice): string => (isNumber && name === "wrong" ? "largest errors" : NAMES[name]);
  return (
    <div role="group" aria-label="Which rows" className="flex">
      {CHOICES.filter((name) => !isNumber || name !== "borderline").map((name) => (
        <button
          key={name}
          type="button"
          className={`press -ml-px rounded-none ${choice === name ? "press-chosen" : ""}`}
          aria-pressed={choice === name}
          onClick={() => onChange(name)}
        >
          {nameOf(name)}
        </button>
      ))}
    </div>
  );
}

/** A segment to which the rows are narrowed: a column, and one of its values. */
export function SegmentFilter({
  columns,
  column,
  value,
  onColumn,
  onValue,
}: {
  readonly columns: readonly string[];
  readonly column: string;
  readonly value: string;
  readonly onColumn: (column: string) => void;
  readonly onValue: (value: string) => void;
}) {
  const [typed, setTyped] = useState(value);
  return (
    <form
      className="flex items-center gap-2 text-caption text-faded"
      onSubmit={(event) => {
        event.preventDefault();
        onValue(typed);
      }}
    >
      where
      <Select
        label="Segment column"
        value={column}
        options={[{ value: "", label: "any row" }, ...columns]}
        onChange={onColumn}
      />
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
  );
}
