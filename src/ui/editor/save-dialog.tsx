"use client";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { DiffView } from "./diff-view";

interface Props {
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
  readonly before: string;
  readonly after: string;
  readonly onSave: (note: string) => Promise<boolean>;
}

/** What a save would change, and why; then it is saved. */
export function SaveDialog({ open, onOpenChange, before, after, onSave }: Props) {
  const [note, setNote] = useState("");
  const [busy, setBusy] = useState(false);
  const save = async (): Promise<void> => {
    setBusy(true);
    const saved = await onSave(note.trim()).finally(() => setBusy(false));
    if (saved) setNote("");
  };
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-16 z-50 flex max-h-[80vh] w-[760px] -translate-x-1/2 flex-col rounded border border-ink bg-paper p-5"
        >
          <Dialog.Title className="text-section font-semibold">Changes in this version</Dialog.Title>
          <div className="my-3 min-h-0 flex-1 overflow-auto border-y border-rule">
            <DiffView before={before} after={after} />
          </div>
          <form
            onSubmit={(event) => {
              event.preventDefault();
              void save();
            }}
            className="flex items-end gap-3"
          >
            <label className="flex-1 text-caption text-faded">
              Reason (stored with the version)
              <input
                autoFocus
                className="field mt-1 block w-full"
                value={note}
                maxLength={500}
                onChange={(event) => setNote(event.target.value)}
              />
            </label>
            <Dialog.Close className="press">Keep editing</Dialog.Close>
            <button type="submit" className="press press-main" disabled={busy}>
              Save
            </button>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
