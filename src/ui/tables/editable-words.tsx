"use client";
import { Pencil } from "lucide-react";
import { useState } from "react";
import { describe } from "@/server/table-actions";
import { tellProblems } from "../basic/tell-problems";

interface Props {
  readonly schema: string;
  readonly table: string;
  /** Left out: the table itself. */
  readonly column?: string;
  readonly words: string | null;
  readonly empty: string;
}

/** A description that can be written in place. */
export function EditableWords({ schema, table, column, words, empty }: Props) {
  const [editing, setEditing] = useState(false);
  const [text, setText] = useState(words ?? "");
  const [shown, setShown] = useState(words ?? "");
  const about = column ?? table;
  const save = async (): Promise<void> => {
    setEditing(false);
    if (text.trim() === shown) return;
    const outcome = await describe({ schema, table }, column, text);
    if (outcome.ok) setShown(text.trim());
    else tellProblems(outcome.problems);
  };
  if (editing) {
    return (
      <input
        autoFocus
        aria-label={`Description of ${about}`}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => void save()}
        onKeyDown={(event) => {
          if (event.key === "Enter") void save();
          else if (event.key === "Escape") {
            setText(shown);
            setEditing(false);
          }
        }}
        maxLength={2000}
        className="field w-full py-0.5"
      />
    );
  }
  return (
    <button
      type="button"
      onClick={() => setEditing(true)}
      aria-label={`Describe ${about}`}
      className="group text-left text-faded hover:text-ink"
    >
      {shown === "" ? <i>{empty}</i> : shown}{" "}
      <Pencil
        size={11}
        className="inline opacity-0 group-hover:opacity-100 group-focus-visible:opacity-100"
        aria-hidden
      />
    </button>
  );
}
