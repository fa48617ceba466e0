"use client";
import { useEffect, useRef, useState } from "react";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { DivisionPreview } from "@/server/division";
import { useDraftForm } from "../../basic/use-draft-form";
import { usePosted } from "../../queries/use-posted";
import { atFields, divisionDraftSchema, draftOfFile, mistakesIn, partsOfDraft } from "./division-draft";

/** Typing is over when nothing was typed for so long. */
const QUIET_MILLISECONDS = 350;

/** The form of which rows train and judge, and what would become of the rows. */
export function useDivision(pipeline: string, file: PipelineFile) {
  const { draft, change, startOver, mistakes, handleSubmit } = useDraftForm(
    divisionDraftSchema,
    draftOfFile(file),
  );
  const complete = Object.keys(mistakesIn(draft)).length === 0;
  const parts = complete ? JSON.stringify(partsOfDraft(draft)) : undefined;
  const [asked, setAsked] = useState(parts);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(parts), QUIET_MILLISECONDS);
    return () => clearTimeout(timer);
  }, [parts]);
  const { value, failure, asking } = usePosted<DivisionPreview>(
    asked === undefined ? undefined : `/api/pipelines/${encodeURIComponent(pipeline)}/division`,
    asked === undefined ? undefined : JSON.parse(asked),
  );
  // While it is counted anew, and while something is missing, the last count stays to be looked at.
  const last = useRef<DivisionPreview>(undefined);
  if (value?.counts) last.current = value;
  const current = asked === parts ? atFields(value?.problems ?? []) : atFields([]);
  return {
    draft,
    change,
    handleSubmit,
    /** What is missing or wrong, by field. */
    mistakes: { ...current.mistakes, ...mistakes },
    /** Whether the file would be refused as the form stands. */
    refused: asked === parts && value !== undefined && value.counts === undefined,
    parts: complete ? partsOfDraft(draft) : undefined,
    changed: JSON.stringify(partsOfDraft(draftOfFile(file))) !== parts,
    counts: last.current?.counts,
    /** Whether the counts are those of the form as it stands. */
    current: value?.counts !== undefined && asked === parts,
    problems: current.others,
    failure,
    asking: asking || asked !== parts,
    reset: (): void => startOver(draftOfFile(file)),
  };
}
