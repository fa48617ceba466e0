"use client";
import { formatShare } from "@/core/format/numbers";
import { ClipboardPaste, FileText, Footprints, Plus, Redo2, Table2, Undo2 } from "lucide-react";
import type { ReactNode } from "react";
import { moment } from "../basic/format";
import { BothTexts } from "../draft/both-texts";
import { useDesk } from "../draft/draft-context";
import { Select } from "../select/select";

const SHARES = [1, 0.5, 0.25, 0.1, 0.05, 0.01] as const;

interface Props {
  readonly counting: string;
  readonly file: boolean;
  readonly follow: boolean;
  readonly version: number;
  readonly onAdd: () => void;
  readonly onJoin: () => void;
  readonly onPaste: () => void;
  readonly onFile: () => void;
  readonly onFollow: () => void;
  readonly onSave: () => void;
  readonly signs: ReactNode;
}

/** The line above the Braid: what can be done with the draft as a whole. */
export function ToolLine({
  counting,
  file,
  follow,
  version,
  onAdd,
  onJoin,
  onPaste,
  onFile,
  onFollow,
  onSave,
  signs,
}: Props) {
  const { draft, share, setShare, problems, reading } = useDesk();
  const errors = problems.filter((problem) => problem.severity === "error").length;
  const { changed } = draft;
  const words = {
    "no changes": `version ${version}`,
    keeping: "saving draft …",
    kept: "draft saved",
    "not saved": "draft not saved yet",
  } as const;
  return (
    <div
      role="toolbar"
      aria-label="The draft"
      className="relative flex h-10 shrink-0 items-center gap-1 overflow-x-auto px-4 text-caption"
    >
      <button type="button" onClick={onAdd} className="press py-0.5" aria-keyshortcuts="i">
        <Plus size={14} aria-hidden />
        Add a step
      </button>
      <button type="button" onClick={onJoin} className="press py-0.5" aria-keyshortcuts="j">
        <Table2 size={14} aria-hidden />
        Join a table
      </button>
      <button
        type="button"
        onClick={draft.undo}
        disabled={!draft.canUndo}
        className="press press-quiet px-1.5"
        aria-label="Undo"
        title="Undo (Ctrl+Z)"
      >
        <Undo2 size={15} />
      </button>
      <button
        type="button"
        onClick={draft.redo}
        disabled={!draft.canRedo}
        className="press press-quiet px-1.5"
        aria-label="Redo"
        title="Redo (Ctrl+Shift+Z)"
      >
        <Redo2 size={15} />
      </button>
      <button
        type="button"
        onClick={onPaste}
        className="press press-quiet px-1.5"
        aria-label="Paste copied steps"
        title="Paste copied steps or strands (Ctrl+V)"
      >
        <ClipboardPaste size={15} />
      </button>
      <button type="button" onClick={onFollow} aria-pressed={follow} className="press press-quiet px-1.5">
        <Footprints size={15} aria-hidden />
        <span className="max-[1150px]:sr-only">Follow a row</span>
      </button>
      <label className="flex items-center gap-1.5 pl-1 text-faded">
        <span className="max-[1150px]:sr-only">sample</span>
        <Select
          label="Share of rows to preview"
          className="py-0"
          value={String(share)}
          options={SHARES.map((part) => ({
            value: String(part),
            label: part === 1 ? "all rows" : `${formatShare(part)} of rows`,
          }))}
          onChange={(part) => setShare(Number(part))}
        />
      </label>
      {signs}
      <span className="ml-auto min-w-0 truncate text-caption text-faded max-[900px]:sr-only" role="status">
        {reading && "reading the draft …"}
        {!reading && errors === 0 && counting}
        {!reading && errors > 0 && (
          <span className="text-madder">
            {errors} error{errors === 1 ? "" : "s"}
          </span>
        )}{" "}
        ·{" "}
        <span data-testid="keeping">
          {changed || draft.keeping !== "kept" ? words[draft.keeping] : words["no changes"]}
        </span>
      </span>
      {changed && (
        <button
          type="button"
          onClick={() => void draft.throwAway()}
          className="press press-quiet px-1.5 py-0.5"
        >
          Revert to version {version}
        </button>
      )}
      <button type="button" onClick={onFile} aria-pressed={file} className="press py-0.5">
        <FileText size={14} aria-hidden />
        {file ? "Close the file" : "Edit the file"}
      </button>
      <button
        type="button"
        onClick={onSave}
        disabled={!changed || errors > 0}
        title={errors > 0 ? "Fix the errors first." : undefined}
        className="press press-main py-0.5"
      >
        Save version
      </button>
    </div>
  );
}

/** What a person must not overlook: a sample, another's draft, a newer version. */
export function DraftNotices({
  basedOn,
  version,
}: {
  readonly basedOn: number | undefined;
  readonly version: number;
}) {
  const { draft, share, setShare } = useDesk();
  const line = "flex shrink-0 items-center gap-3 border-y border-rule bg-paper px-4 py-1 text-caption";
  return (
    <>
      {share < 1 && (
        <p role="status" className={line} data-testid="share-notice">
          <b className="text-madder">{formatShare(share)} of the rows.</b> Counts and learned values below use
          a sample of the main table; runs always use all rows.{" "}
          <button type="button" className="press py-0" onClick={() => setShare(1)}>
            Use all rows
          </button>
        </p>
      )}
      {draft.meanwhile && (
        <p role="alert" className={line} data-testid="meanwhile">
          <b className="text-madder">Another user changed this draft</b> at{" "}
          <span className="real-time">{moment(draft.meanwhile.at)}</span>. Both texts are kept:{" "}
          <BothTexts draft={draft} />
        </p>
      )}
      {basedOn !== undefined && basedOn < version && draft.changed && (
        <p role="alert" className={line}>
          <b className="text-madder">Version {version} was saved</b> after this draft was started from version{" "}
          {basedOn}. It cannot be saved:{" "}
          <button type="button" className="press py-0" onClick={() => void draft.throwAway()}>
            Go to version {version}
          </button>
        </p>
      )}
    </>
  );
}
