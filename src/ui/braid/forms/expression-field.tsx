"use client";
import { autocompletion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { PostgreSQL, sql } from "@codemirror/lang-sql";
import { setDiagnostics, type Diagnostic } from "@codemirror/lint";
import { Prec, type Extension } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import CodeMirror from "@uiw/react-codemirror";
import { useEffect, useMemo, useRef, useState } from "react";
import { writeColumnName } from "@/core/expression/column-name";
import type { Tried } from "@/runs/draft/try-expression";
import { editorLook } from "../../basic/editor-look";
import { useTyped } from "../../basic/use-typed";
import { useDesk } from "../../draft/draft-context";
import { useAnswer } from "../../draft/use-answer";
import type { ColumnHere, Place } from "../places";

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
    const complete = (context: CompletionContext): CompletionResult | null => {
      const word = context.matchBefore(/[\w"]*/);
      if (!word || (word.from === word.to && !context.explicit)) return null;
      const { columns: here, other: there, functions } = offered.current;
      return {
        from: word.from,
        options: [
          ...here
            .filter((each) => !each.bundle)
            .map((each) => ({
              label: each.name,
              apply: writeColumnName(each.name),
              detail: each.type,
              type: "variable",
              boost: 2,
            })),
          ...(there?.columns ?? []).map((each) => ({
            label: `${there?.strand ?? ""}.${each.name}`,
            apply: `${writeColumnName(there?.strand ?? "")}.${writeColumnName(each.name)}`,
            detail: each.type,
            type: "variable",
            boost: 1,
          })),
          ...functions.map((each) => ({
            label: each.name,
            apply: `${each.name}(`,
            detail: each.usage,
            type: "function",
          })),
        ],
      };
    };
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
    const marks = problems.flatMap((each): Diagnostic[] => {
      const offset = each.location?.offset;
      if (offset === undefined || offset > editor.state.doc.length) return [];
      const rest = editor.state.doc.sliceString(offset);
      return [
        {
          from: offset,
          to: Math.min(
            editor.state.doc.length,
            offset + Math.max(1, /^"[^"]*"|^\w+/.exec(rest)?.[0].length ?? 1),
          ),
          severity: "error",
          message: each.message,
        },
      ];
    });
    editor.dispatch(setDiagnostics(editor.state, marks));
  }, [problems]);
  const { sample } = tried.value ?? {};
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
      <div className={opened ? "h-32 overflow-auto" : "min-h-5"}>
        {problems.map((each) => (
          <p key={each.message} role="alert" className="mt-0.5 text-sm text-madder">
            {each.message} {each.hint && <span className="text-faded">{each.hint}</span>}
          </p>
        ))}
        {tried.failure && <p className="mt-0.5 text-sm text-faded">No sample yet. {tried.failure}</p>}
        {tried.value?.type && problems.length === 0 && (
          <p className="mt-0.5 truncate text-xs text-faded" aria-label={`Values of ${label}`}>
            gives {tried.value.type}
            {sample && sample.rows.length > 0 && (
              <>
                :{" "}
                <span className="figure text-ink">
                  {sample.rows.map((row) => row.at(-1) ?? "missing").join(" · ")}
                </span>
              </>
            )}
          </p>
        )}
        {opened && sample && sample.rows.length > 0 && sample.columns.length > 1 && (
          <table className="figure mt-1 text-xs">
            <thead>
              <tr>
                {sample.columns.map((name) => (
                  <th
                    key={name}
                    className={`pr-4 text-left font-normal ${name === "result" ? "text-madder" : "text-faded"}`}
                  >
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {sample.rows.map((row, index) => (
                <tr key={index}>
                  {row.map((cell, at) => (
                    <td key={at} className="max-w-48 truncate pr-4">
                      {cell ?? <i className="text-faded">missing</i>}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </div>
  );
}
