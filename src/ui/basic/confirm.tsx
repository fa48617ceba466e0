"use client";
import { AlertDialog } from "radix-ui";
import { useSyncExternalStore } from "react";

interface Question {
  readonly question: string;
  /** What the button says that does it. */
  readonly action: string;
  readonly answer: (agreed: boolean) => void;
}

let open: Question | undefined;
const listeners = new Set<() => void>();

function change(next: Question | undefined): void {
  open = next;
  for (const listener of listeners) listener();
}

const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** Asks before a change that has consequences. @returns whether to make it */
export const askToConfirm = (question: string, action: string): Promise<boolean> =>
  new Promise((answer) => {
    // A question that is still open is taken back by the next one.
    open?.answer(false);
    change({ question, action, answer });
  });

/** Shows the question that is asked now; the page has one of it. */
export function ConfirmHost() {
  const asked = useSyncExternalStore(
    subscribe,
    () => open,
    () => undefined,
  );
  const answer = (agreed: boolean): void => {
    asked?.answer(agreed);
    change(undefined);
  };
  return (
    <AlertDialog.Root open={asked !== undefined} onOpenChange={(shown) => !shown && answer(false)}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <AlertDialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-24 z-50 w-[min(480px,92vw)] -translate-x-1/2 rounded border border-ink bg-paper p-5"
        >
          <AlertDialog.Title className="break-words">{asked?.question}</AlertDialog.Title>
          <div className="mt-4 flex justify-end gap-3">
            <AlertDialog.Cancel className="press">Cancel</AlertDialog.Cancel>
            <button type="button" className="press press-main" autoFocus onClick={() => answer(true)}>
              {asked?.action}
            </button>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
