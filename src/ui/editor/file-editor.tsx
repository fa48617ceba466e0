"use client";
import { formatCount } from "@/core/format/numbers";
import { autocompletion } from "@codemirror/autocomplete";
import { yaml } from "@codemirror/lang-yaml";
import { lintGutter, setDiagnostics, type Diagnostic } from "@codemirror/lint";
import { EditorView } from "@codemirror/view";
import CodeMirror from "@uiw/react-codemirror";
import { useEffect, useMemo, useRef } from "react";
import type { Problem } from "@/core/problem";
import { editorLook } from "../basic/editor-look";
import { Problems } from "../basic/problems";
import type { EditorWords } from "@/server/editor-words";
import { completionOf } from "./completion";

interface Props {
  readonly text: string;
  readonly onChange: (text: string) => void;
  readonly words: EditorWords;
  /** What is wrong with the text, and whether that is still being found out. */
  readonly problems: readonly Problem[];
  readonly reading: boolean;
}

/** The pipeline file as text, with completion and errors in place: the same document as the Braid. */
export function FileEditor({ text, onChange, words, problems, reading }: Props) {
  const view = useRef<EditorView>(undefined);
  const extensions = useMemo(
    () => [
      yaml(),
      lintGutter(),
      EditorView.lineWrapping,
      autocompletion({ override: [completionOf(words)] }),
      EditorView.contentAttributes.of({ "aria-label": "Pipeline file" }),
      ...editorLook,
    ],
    [words],
  );
  useEffect(() => {
    const editor = view.current;
    if (!editor || reading) return;
    const marks = problems.flatMap((problem): Diagnostic[] => {
      const number = problem.location?.line;
      if (!number || number > editor.state.doc.lines) return [];
      const line = editor.state.doc.line(number);
      const from = Math.min(line.to, line.from + Math.max(0, (problem.location?.column ?? 1) - 1));
      return [
        {
          from,
          to: Math.max(from, line.to),
          severity: problem.severity,
          message: `${problem.message}${problem.hint ? ` ${problem.hint}` : ""}`,
        },
      ];
    });
    editor.dispatch(setDiagnostics(editor.state, marks));
  }, [problems, reading]);
  const goTo = (found: Problem): void => {
    const editor = view.current;
    const number = found.location?.line;
    if (!editor || !number || number > editor.state.doc.lines) return;
    const position = editor.state.doc.line(number).from + Math.max(0, (found.location?.column ?? 1) - 1);
    editor.dispatch({
      selection: { anchor: Math.min(position, editor.state.doc.length) },
      scrollIntoView: true,
    });
    editor.focus();
  };
  const errors = problems.filter(({ severity }) => severity === "error").length;
  const verdict = errors > 0 ? formatCount(errors, "error") : "valid; shown in the Braid";
  return (
    <section aria-label="File" className="flex h-full min-h-0 flex-col bg-paper">
      <p className="border-b border-rule px-3 py-1.5 text-caption text-faded" role="status">
        {reading ? "checking …" : verdict}
      </p>
      <div className="min-h-0 flex-1 overflow-auto" data-testid="file-editor">
        <CodeMirror
          value={text}
          onChange={onChange}
          theme="none"
          extensions={extensions}
          onCreateEditor={(editor) => {
            view.current = editor;
          }}
          basicSetup={{ foldGutter: true }}
          height="100%"
          className="h-full"
        />
      </div>
      {problems.length > 0 && (
        <div className="max-h-44 overflow-auto border-t border-rule px-3 py-2 text-caption">
          <Problems lines problems={problems} onPick={goTo} />
        </div>
      )}
    </section>
  );
}
