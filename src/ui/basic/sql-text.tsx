"use client";
import { PostgreSQL, sql as sqlLanguage } from "@codemirror/lang-sql";
import { EditorView } from "@codemirror/view";
import CodeMirror from "@uiw/react-codemirror";
import { editorLook } from "./editor-look";

const EXTENSIONS = [sqlLanguage({ dialect: PostgreSQL }), EditorView.lineWrapping, ...editorLook];

/** SQL to read and copy. */
export function SqlText({ sql }: { readonly sql: string }) {
  return (
    <CodeMirror
      value={sql}
      editable={false}
      theme="none"
      extensions={EXTENSIONS}
      basicSetup={{
        lineNumbers: true,
        foldGutter: false,
        highlightActiveLine: false,
        highlightActiveLineGutter: false,
      }}
      aria-label="SQL"
    />
  );
}
