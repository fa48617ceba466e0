"use client";
import { PostgreSQL, sql } from "@codemirror/lang-sql";
import { EditorView } from "@codemirror/view";
import CodeMirror from "@uiw/react-codemirror";
import { useMemo } from "react";
import { editorLook } from "../../basic/editor-look";
import { useTyped } from "../../basic/use-typed";
import { useForm } from "./form-context";

const PAUSE_MILLISECONDS = 500;

/** A SELECT of one's own over the rows so far, which are called "strand". */
export function SelectField({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
}) {
  const { columns, strands } = useForm();
  const { text, setText } = useTyped(value, onChange, PAUSE_MILLISECONDS);
  const schema = useMemo(
    () =>
      Object.fromEntries([
        ["strand", columns.map((column) => column.name)],
        ...strands.map((strand) => [strand.name, strand.columns.map((column) => column.name)]),
      ]) as Record<string, string[]>,
    [columns, strands],
  );
  const extensions = useMemo(
    () => [
      sql({ dialect: PostgreSQL, schema, defaultTable: "strand" }),
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ "aria-label": label }),
      ...editorLook,
    ],
    [schema, label],
  );
  return (
    <div className="field p-0">
      <CodeMirror
        value={text}
        onChange={setText}
        theme="none"
        minHeight="110px"
        extensions={extensions}
        basicSetup={{ foldGutter: false, highlightActiveLineGutter: false }}
      />
    </div>
  );
}
