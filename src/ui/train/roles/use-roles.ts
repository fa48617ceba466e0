"use client";
import { useMemo } from "react";
import type { PipelineFile } from "@/core/pipeline/schema";
import { useDraftForm } from "../../basic/use-draft-form";
import { rolesDraftSchema, rolesOfDraft, rolesOfFile, type FinalColumn } from "./roles-draft";

/** The form of what columns are for. */
export function useRoles(file: PipelineFile, columns: readonly FinalColumn[]) {
  const schema = useMemo(() => rolesDraftSchema(columns), [columns]);
  const { draft, change, startOver, errors, ...form } = useDraftForm(schema, rolesOfFile(file));
  const sides = {
    positive: errors.sides?.positive?.message,
    negative: errors.sides?.negative?.message,
  };
  const roles = rolesOfDraft(draft, columns);
  return {
    draft,
    change,
    roles,
    /** What is wrong with each side of the target. */
    sides,
    mistake: form.mistakes.key ?? sides.positive ?? sides.negative,
    isValid: form.isValid,
    changed: JSON.stringify(roles) !== JSON.stringify(rolesOfDraft(rolesOfFile(file), columns)),
    reset: (): void => startOver(rolesOfFile(file)),
    handleSubmit: form.handleSubmit,
  };
}
