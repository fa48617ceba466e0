"use client";
import { useMemo } from "react";
import { newPipelineText } from "@/core/pipeline/edit/new-pipeline";
import type { TableOutline } from "@/core/pipeline/proposal/outline";
import { parseTableName } from "@/core/pipeline/table-name";
import type { Problem } from "@/core/problem";
import type { PlacedProfile } from "@/runs/draft/profile-at";
import { useDraftForm } from "../basic/use-draft-form";
import { useSettled } from "../basic/use-settled";
import { usePosted } from "../queries/use-posted";
import { useRead } from "../queries/use-read";
import { choicesSchema, firstChoices, withDependents, type Choices } from "./choices";
import { findingsOf, type Findings, type KeyState, type Reading } from "./findings";
import { proposePipeline, targetOf, type Proposal } from "./proposal";
import { isTargetChosen, targetQuestion } from "./target-question";

const PAUSE_MILLISECONDS = 300;
const NOTHING: readonly Problem[] = [];

/** All that a form for a new pipeline shows. */
export interface NewPipelineForm {
  readonly choices: Choices;
  readonly change: (chosen: Partial<Choices>) => void;
  readonly outline: TableOutline | undefined;
  /** Why the table could not be read. */
  readonly failure: string | undefined;
  /** The target's values, once they were read; or why they could not be. */
  readonly profile: PlacedProfile | undefined;
  readonly profileFailure: string | undefined;
  readonly proposal: Proposal;
  readonly findings: Findings;
  /** The file as it would be made. */
  readonly text: string;
  readonly handleSubmit: ReturnType<typeof useDraftForm<Choices>>["handleSubmit"];
}

/** What was chosen for a new pipeline, what is proposed for the rest, and what is still missing. */
export function useNewPipeline(table: string | undefined, taken: readonly string[]): NewPipelineForm {
  const schema = useMemo(() => choicesSchema(taken), [taken]);
  const { draft: choices, mistakes, ...form } = useDraftForm<Choices>(schema, firstChoices(table ?? ""));
  const read = useTable(choices);
  const proposal = proposePipeline(choices, { ...read, taken });
  const text = newPipelineText(proposal.pipeline);
  const reading = useReading(proposal, text, read);
  return {
    ...read,
    choices,
    change: (chosen) => form.change(withDependents(chosen)),
    handleSubmit: form.handleSubmit,
    proposal,
    findings: findingsOf(choices, mistakes, proposal, { ...reading, taken }),
    text,
  };
}

const placeOf = (table: string): string | undefined => {
  const reference = parseTableName(table);
  return (
    reference && `schema=${encodeURIComponent(reference.schema)}&table=${encodeURIComponent(reference.table)}`
  );
};

/** The table that was chosen, and the values of the target. */
function useTable(choices: Choices) {
  const place = placeOf(choices.table);
  const { value: outline, failure } = useRead<TableOutline>(place && `/api/tables/outline?${place}`);
  const expression = useSettled(choices.expression, PAUSE_MILLISECONDS);
  const target = targetOf({ ...choices, expression }, outline);
  const isChosen = isTargetChosen(target);
  // Only the target's values are asked for here, so that the key can be any column.
  const question = outline && isChosen ? targetQuestion(choices.table, outline, target) : undefined;
  const { value: profile, failure: profileFailure } = usePosted<PlacedProfile | null>(
    question && "/api/draft/profile",
    { ...question, strand: parseTableName(choices.table)?.table },
  );
  return { outline, failure, profile: profile ?? undefined, profileFailure, isChosen };
}

/** What the server says of the pipeline as it would be made. */
function useReading(
  { pipeline: { key, name, table } }: Proposal,
  text: string,
  { outline, profile, profileFailure, isChosen }: ReturnType<typeof useTable>,
): Omit<Reading, "taken"> {
  const reference = parseTableName(table);
  const isKept = outline?.keys.some((names) => names.join("\0") === key.join("\0"));
  const { value: keyState } = usePosted<KeyState>(
    reference && outline && key.length > 0 && !isKept ? "/api/tables/key" : undefined,
    { ...reference, columns: key },
  );
  const settled = useSettled(text, PAUSE_MILLISECONDS);
  const isComplete = isChosen && key.length > 0 && name !== "";
  const { value: survey } = usePosted<{ readonly problems: readonly Problem[] }>(
    isComplete ? "/api/draft/survey" : undefined,
    { text: settled },
  );
  return {
    key: keyState,
    file: survey?.problems ?? NOTHING,
    values: stateOfValues(profile, profileFailure),
  };
}

function stateOfValues(profile: PlacedProfile | undefined, failure: string | undefined): Reading["values"] {
  if (profile) return { state: "read" };
  return failure === undefined ? { state: "reading" } : { failure };
}
