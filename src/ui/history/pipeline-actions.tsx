"use client";
import { Copy, Download, Pencil, Trash2 } from "lucide-react";
import { CopyDialog, RenameDialog } from "./name-dialogs";
import { RemoveDialog } from "./remove-dialog";

/** What can be done with a pipeline as a whole. */
export function PipelineActions({ pipeline }: { readonly pipeline: string }) {
  return (
    <div
      role="group"
      aria-label={`The pipeline ${pipeline}`}
      className="mb-5 flex flex-wrap items-center gap-3"
    >
      <a className="press" href={`/api/pipelines/${encodeURIComponent(pipeline)}/file`}>
        <Download size={15} aria-hidden /> Download the file
      </a>
      <CopyDialog pipeline={pipeline}>
        <button type="button" className="press">
          <Copy size={15} aria-hidden /> Copy
        </button>
      </CopyDialog>
      <RenameDialog pipeline={pipeline}>
        <button type="button" className="press">
          <Pencil size={15} aria-hidden /> Rename
        </button>
      </RenameDialog>
      <RemoveDialog pipeline={pipeline}>
        <button type="button" className="press">
          <Trash2 size={15} aria-hidden /> Delete
        </button>
      </RemoveDialog>
    </div>
  );
}
