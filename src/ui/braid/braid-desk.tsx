"use client";
import { FileText } from "lucide-react";
import { parseAsBoolean, useQueryState } from "nuqs";
import type { Braid } from "@/core/plan/braid";
import type { Problem } from "@/core/problem";
import { Problems } from "../basic/problems";
import type { EditorWords } from "@/server/editor-words";
import { FileEditor } from "../editor/file-editor";
import { BraidView } from "./braid-view";

interface Props {
  readonly pipeline: string;
  readonly version: number;
  readonly text: string;
  readonly words: EditorWords;
  /** Absent when the saved file no longer fits the warehouse. */
  readonly braid: Braid | undefined;
  readonly problems: readonly Problem[];
}

/** The Braid with its tray, and the file beside it when wanted. */
export function BraidDesk({ pipeline, version, text, words, braid, problems }: Props) {
  const [file, setFile] = useQueryState("file", parseAsBoolean.withDefault(false));
  const open = file || !braid;
  return (
    <div className="flex h-[calc(100vh-49px-63px)] min-h-[520px]">
      <div className="flex min-w-0 flex-1 flex-col">
        {braid ? <BraidView pipeline={pipeline} version={version} braid={braid} action={<button type="button" onClick={() => void setFile(!file)} aria-pressed={open} className="press py-0.5"><FileText size={14} aria-hidden />{open ? "Close the file" : "Edit the file"}</button>} /> : (
          <div className="mx-auto w-full max-w-3xl px-5 py-8">
            <h2 className="mb-3">This file does not fit the warehouse, so there is no Braid to draw.</h2>
            <Problems problems={problems} />
          </div>
        )}
      </div>
      {open && <div className="w-[44%] min-w-[380px] border-l border-rule"><FileEditor text={text} words={words} pipeline={{ name: pipeline, version }} /></div>}
    </div>
  );
}
