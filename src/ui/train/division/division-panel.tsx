"use client";
import { useState } from "react";
import { toast } from "sonner";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Problem } from "@/core/problem";
import { saveParts } from "@/server/file-actions";
import { Problems } from "../../basic/problems";
import { usePageRefresh } from "../../basic/page-refresh";
import { useAction } from "../../basic/use-action";
import { DivisionBar } from "./division-bar";
import { DivisionFields } from "./division-fields";
import { useDivision } from "./use-division";

interface Props {
  readonly pipeline: string;
  readonly file: PipelineFile;
  /** Tables that can judge. */
  readonly tables: readonly string[];
  /** Whether values of the group column are numbers. */
  readonly numberGroups: boolean;
}

/** Which rows train and which judge: chosen at the left, counted at the right before anything is trained. */
export function DivisionPanel({ pipeline, file, tables, numberGroups }: Props) {
  const refresh = usePageRefresh();
  const division = useDivision(pipeline, file);
  const { draft, parts, counts, changed } = division;
  const [refused, setRefused] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const save = async (): Promise<void> => {
    if (!parts) return;
    const outcome = await ask(() => saveParts({ pipeline, note: "validation", parts: { ...parts } }));
    if (!outcome.ok) return setRefused(outcome.problems);
    setRefused([]);
    toast.success(`Saved as version ${outcome.value.version} of the file.`);
    refresh();
  };
  const { target } = file.roles;
  const problems = refused.length > 0 ? refused : division.problems;
  return (
    <form
      aria-label="Validation"
      className="grid grid-cols-1 gap-x-10 gap-y-4 @4xl:grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)]"
      onSubmit={(event) => void division.handleSubmit(save)(event)}
    >
      <div>
        <DivisionFields file={file} division={division} tables={tables} numberGroups={numberGroups} />
        <div className="mt-3 flex items-center gap-3">
          <button type="submit" className="press" disabled={busy || !parts || !changed || division.refused}>
            Save
          </button>
          {changed && (
            <button type="button" className="press" onClick={division.reset}>
              Undo changes
            </button>
          )}
          <span className="text-caption text-faded">
            {whySaved(changed, Object.values(division.mistakes)[0])}
          </span>
        </div>
      </div>
      <div className="min-w-0">
        {counts && (
          <div className={division.current ? "" : "cursor-progress"}>
            <DivisionBar
              counts={counts}
              positive={target.kind === "binary" ? `Positive (${target.column})` : undefined}
            />
          </div>
        )}
        <p role="status" className="mt-1 text-caption text-faded">
          {division.asking ? "counting …" : ""}
        </p>
        {draft.by === "none" && (
          <p className="mt-1 max-w-xl text-caption" data-testid="none-held">
            {draft.folds === "nothing"
              ? "All rows are used for training, so versions have no metrics. Add folds to cross-validate."
              : "All rows are used for training. Metrics come from cross-validation: each row is predicted by a model trained without its fold."}
          </p>
        )}
        {division.failure && (
          <p role="alert" className="text-caption text-madder">
            {division.failure}
          </p>
        )}
        {problems.length > 0 && (
          <div className="mt-2">
            <Problems problems={problems} />
          </div>
        )}
      </div>
    </form>
  );
}

/** Why the button is as it is. */
function whySaved(changed: boolean, mistake: string | undefined): string {
  if (mistake !== undefined) return mistake;
  return changed ? "" : "Saved.";
}
