"use client";
import { useEffect, useState } from "react";
import type { Problem } from "@/core/problem";
import type { EditorWords } from "@/server/editor-words";
import { FileEditor } from "../editor/file-editor";
import { usePosted } from "../queries/use-posted";

const CHECK_MILLISECONDS = 400;
const NOTHING: readonly Problem[] = [];

/** A new pipeline's file, written by hand. */
export function NewFile({
  words,
  text,
  refused,
  busy,
  onChange,
  onMake,
  onBack,
}: {
  readonly words: EditorWords;
  readonly text: string;
  /** What the server said when it was to be made as it is. */
  readonly refused: readonly Problem[];
  readonly busy: boolean;
  readonly onChange: (text: string) => void;
  readonly onMake: () => void;
  readonly onBack: () => void;
}) {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), CHECK_MILLISECONDS);
    return () => clearTimeout(timer);
  }, [text]);
  const checked = usePosted<{ readonly problems: readonly Problem[] }>("/api/check", { text: settled });
  const reading = settled !== text || checked.asking;
  const problems = refused.length > 0 ? refused : (checked.value?.problems ?? NOTHING);
  return (
    <div className="page flex flex-1 flex-col pb-6">
      <div className="min-h-[420px] flex-1 border border-rule">
        <FileEditor text={text} onChange={onChange} words={words} problems={problems} reading={reading} />
      </div>
      <div className="mt-3 flex gap-3">
        <button
          type="button"
          className="press press-main"
          disabled={busy || reading || problems.some(({ severity }) => severity === "error")}
          onClick={onMake}
        >
          Create pipeline
        </button>
        <button type="button" className="press press-quiet" onClick={onBack}>
          Back to the form
        </button>
      </div>
    </div>
  );
}
