"use client";
import { mendObstacle } from "@/core/pipeline/edit/mend";
import type { Draft } from "../draft/use-draft";
import { useSettled } from "../basic/use-settled";
import { BeforeTraining } from "../train/before-training";

/** The rows are read again when the draft has been left alone for so long. */
const PAUSE_MILLISECONDS = 1500;

/**
 * What a training of the draft would stop at or leave out, said while it is being built. Its room is always the
 * same: what it says comes and goes, and must not move what is below from under a click.
 */
export function RowsAhead({ draft, share }: { readonly draft: Draft; readonly share: number }) {
  const text = useSettled(draft.text, PAUSE_MILLISECONDS);
  return (
    <div className="h-12 shrink-0 overflow-y-auto px-5 py-1">
      <BeforeTraining
        text={text}
        share={share}
        quiet
        none="No problems in the training rows."
        busy={false}
        onMend={(mend) => draft.edit((now) => mendObstacle(now, mend))}
      />
    </div>
  );
}
