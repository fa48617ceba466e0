"use client";
import { autocompletion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { PostgreSQL, sql } from "@codemirror/lang-sql";
import { setDiagnostics } from "@codemirror/lint";
import { Prec, type Extension } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import CodeMirror from "@uiw/react-codemirror";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Tried } from "@/runs/draft/try-expression";
import { editorLook } from "../../basic/editor-look";
import { useTyped } from "../../basic/use-typed";
import { useDesk } from "../../draft/draft-context";
import { useAnswer } from "../../draft/use-answer";
import type { ColumnHere, Place } from "../places";
import { ExpressionSample } from "./expression-sample";
import { completeExpression, marksOf } from "./expression-words";

const PAUSE_MILLISECONDS = 300;
const NO_PROBLEMS: Tried["problems"] = [];

interface Props {
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly label: string;
  /** Where the columns come from. */
  readonly place: Place;
  readonly columns: readonly ColumnHere[];
  readonly aggregate?: boolean;
  readonly by?: readonly string[];
  /** Another strand whose columns may be named with its name before them. */
  readonly other?: { readonly strand: string; readonly columns: readonly ColumnHere[] } | undefined;
}

/** An SQL expression: completion, errors at their place, and its value on a few rows while it is written. */
export function ExpressionField({
  value,
  onChange,
  label,
  place,
  columns,
  aggregate = false,
  by = [],
  other,
}: Props) {
  const { words } = useDesk();
  const { text, setText, take } = useTyped(value, onChange, PAUSE_MILLISECONDS);
  const view = useRef<EditorView>(undefined);
  // The room below is taken when it is gone into, and kept: nothing moves away from under a click that leaves it.
  const [opened, setOpened] = useState(false);
  const tried = useAnswer<Tried>(
    "expression",
    text.trim() === ""
      ? undefined
      : ({
          ...place,
          expression: text,
          kind: aggregate ? "aggregate" : "value",
          by,
          ...(other ? { other: other.strand } : {}),
        } as never),
    PAUSE_MILLISECONDS,
  );
  const offered = useRef({ columns, other, functions: words.functions });
  offered.current = { columns, other, functions: words.functions };
  const extensions = useMemo((): Extension[] => {
    const complete = (context: CompletionContext): CompletionResult | null =>
      completeExpression(context, offered.current);
    return [
      sql({ dialect: PostgreSQL }),
      autocompletion({ override: [complete] }),
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ "aria-label": label }),
      ...editorLook,
      // Enter takes the expression over; a new line needs Shift.
      Prec.high(
        keymap.of([
          {
            key: "Enter",
            run: (editor) => {
              if (editor.dom.querySelector(".cm-tooltip-autocomplete")) return false;
              take();
              return true;
            },
          },
        ]),
      ),
    ];
  }, [label, take]);
  const problems = tried.value?.problems ?? NO_PROBLEMS;
  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const marks = marksOf(problems, editor.state.doc);
    editor.dispatch(setDiagnostics(editor.state, marks));
  }, [problems]);
  return (
    <div onFocus={() => setOpened(true)} onBlur={() => take()}>
      <div className="field max-w-3xl p-0">
        <CodeMirror
          value={text}
          onChange={setText}
          theme="none"
          indentWithTab={false}
          extensions={extensions}
          onCreateEditor={(editor) => {
            view.current = editor;
          }}
          basicSetup={{
            lineNumbers: false,
            foldGutter: false,
            highlightActiveLine: false,
            highlightActiveLineGutter: false,
            bracketMatching: true,
          }}
        />
      </div>
      <ExpressionSample label={label} tried={tried} opened={opened} />
    </div>
  );
}
