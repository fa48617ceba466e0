"use client";
import { remark } from "@/server/training-actions";
import { toast } from "sonner";
import { useTyped } from "../basic/use-typed";

/** Typing has stopped after so long. */
const PAUSE_MILLISECONDS = 900;

/** The note of a trial, saved while it is typed. */
export function TrialNote({ model, note }: { readonly model: number; readonly note: string }) {
  const { text, setText, take } = useTyped(
    note,
    (value) =>
      void remark({ model, note: value }).then((outcome) => {
        if (!outcome.ok) toast.error(outcome.problems[0]?.message ?? "The note could not be saved.");
      }),
    PAUSE_MILLISECONDS,
  );
  return (
    <input
      aria-label="Note"
      className="w-36 border-b border-transparent bg-transparent text-caption hover:border-rule focus:border-ink"
      placeholder="note"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => take()}
    />
  );
}
