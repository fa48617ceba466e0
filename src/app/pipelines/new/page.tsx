import type { Metadata } from "next";
import { editorWords } from "@/server/editor-words";
import { FileEditor } from "@/ui/editor/file-editor";

export const metadata: Metadata = { title: "New pipeline" };

const START = `ravlen: 1
name: my-pipeline
description: What it predicts, in a few words

brief:
  question: What shall be predicted?
  row: What one row is.

strands:
  - name: rows
    from: schema.table
    steps:
      - do: filter
        where: some_column is not null

roles:
  key: [id]
  target:
    column: answer
    kind: binary
    positive: true

rows:
  from: rows
  train: answer is not null
  score: answer is null

candidates:
  - name: plain logistic
    algorithm: logistic_regression
`;

export default async function NewPipelinePage() {
  return (
    <div className="flex h-[calc(100vh-49px)] flex-col px-5 pb-4">
      <div className="pb-3 pt-5"><h1>New pipeline</h1><p className="text-faded">Change the example until it fits your tables; errors are marked at their lines. Ctrl+Space offers tables, columns, steps and settings.</p></div>
      <div className="min-h-0 flex-1 border border-rule"><FileEditor text={START} words={await editorWords()} /></div>
    </div>
  );
}
