"use client";
import { useCallback, useState, type ReactNode } from "react";
import { toast } from "sonner";
import { savePipeline } from "@/server/actions";
import { askForChange } from "../basic/use-action";
import { useDesk } from "../draft/draft-context";
import { SaveDialog } from "./save-dialog";
import { tellProblems } from "../basic/tell-problems";
import { usePageRefresh } from "../basic/page-refresh";

/** Saves the draft as a new version, after showing what it changes and asking why. */
export function useSaveVersion(
  pipeline: string,
  version: { readonly number: number; readonly text: string },
): { readonly askToSave: () => void; readonly dialog: ReactNode } {
  const refresh = usePageRefresh();
  const { draft } = useDesk();
  const [saving, setSaving] = useState(false);
  const save = async (note: string): Promise<boolean> => {
    const outcome = await askForChange(() =>
      savePipeline({
        text: draft.text,
        note,
        basedOn: version.number,
        expectedName: pipeline,
      }),
    );
    setSaving(false);
    if (!outcome.ok) {
      tellProblems(outcome.problems);
      return false;
    }
    toast.success(outcome.value.fresh ? `Saved as version ${outcome.value.version}.` : "No changes to save.");
    refresh();
    return true;
  };
  const askToSave = useCallback(() => setSaving(true), []);
  return {
    askToSave,
    dialog: (
      <SaveDialog
        open={saving}
        onOpenChange={setSaving}
        before={version.text}
        after={draft.text}
        onSave={save}
      />
    ),
  };
}
