"use client";
import { toast } from "sonner";
import type { Mend } from "@/core/plan/obstacles";
import { mendBeforeTraining } from "@/server/file-actions";
import { usePageRefresh } from "../basic/page-refresh";
import { useAction } from "../basic/use-action";
import { BeforeTraining } from "./before-training";

/** What stands in the way of training the newest version of a file; mending it saves the next version. */
export function MendPanel({ pipeline, text }: { readonly pipeline: string; readonly text: string }) {
  const refresh = usePageRefresh();
  const [busy, ask] = useAction();
  const mend = async (wanted: Mend): Promise<void> => {
    const outcome = await ask(() => mendBeforeTraining(pipeline, wanted));
    if (!outcome.ok) {
      const [problem] = outcome.problems;
      toast.error(problem?.message ?? "It was not changed.", { description: problem?.hint });
      return;
    }
    toast.success(`Saved as version ${outcome.value.version} of the file.`);
    refresh();
  };
  return <BeforeTraining text={text} busy={busy} onMend={(wanted) => void mend(wanted)} />;
}
