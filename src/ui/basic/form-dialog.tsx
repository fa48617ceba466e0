"use client";
import { Dialog } from "radix-ui";
import { createContext, useCallback, useContext, useState, type ReactNode } from "react";
import { toast } from "sonner";
import type { Problem } from "@/core/problem";
import type { Outcome } from "@/server/answer/action";
import { Problems } from "./problems";
import { useAction } from "./use-action";
import { usePageRefresh } from "./page-refresh";

const CloseContext = createContext<() => void>(() => undefined);

/** A dialog with a form, which exists only while it is open and so starts from what the file says. */
export function FormDialog({
  trigger,
  children,
}: {
  /** What opens it. */
  readonly trigger: ReactNode;
  /** A component that draws a {@link DialogForm}. */
  readonly children: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const close = useCallback(() => setOpen(false), []);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>{trigger}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
        <Dialog.Content
          className="fixed inset-x-0 bottom-0 top-10 z-50 mx-auto flex w-[min(1000px,96vw)] flex-col border border-rule bg-linen"
          aria-describedby={undefined}
        >
          <CloseContext value={close}>{children}</CloseContext>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

interface Props {
  readonly title: string;
  /** Writes into the file; gives the file's new version. */
  readonly save: () => Promise<Outcome<{ version: number }>>;
  readonly incomplete: boolean;
  readonly children: ReactNode;
}

/** A form over a part of the pipeline's file, which is saved as the file's next version. */
export function DialogForm({ title, save, incomplete, children }: Props) {
  const refresh = usePageRefresh();
  const close = useContext(CloseContext);
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const press = async (): Promise<void> => {
    const outcome = await ask(save);
    if (!outcome.ok) return setProblems(outcome.problems);
    toast.success(`Saved as version ${outcome.value.version} of the file.`);
    close();
    refresh();
  };
  return (
    <>
      <Dialog.Title className="px-6 pt-5 text-title font-semibold">{title}</Dialog.Title>
      <form
        className="flex min-h-0 flex-1 flex-col"
        onSubmit={(event) => {
          event.preventDefault();
          void press();
        }}
      >
        <div className="min-h-0 flex-1 overflow-y-auto px-6 pb-5 pt-3">{children}</div>
        <div className="border-t border-rule px-6 py-3">
          {problems.length > 0 && (
            <div className="mb-3 max-h-40 overflow-y-auto" role="alert">
              <Problems problems={problems} />
            </div>
          )}
          <div className="flex gap-3">
            <button type="submit" className="press press-main" disabled={busy || incomplete}>
              Save
            </button>
            <Dialog.Close className="press">Cancel</Dialog.Close>
          </div>
        </div>
      </form>
    </>
  );
}

/** A label with its field, as one line of such a form. */
export function FormLine({
  label,
  htmlFor,
  says,
  children,
}: {
  readonly label: string;
  readonly htmlFor?: string;
  readonly says?: ReactNode;
  readonly children: ReactNode;
}) {
  return (
    <div className="grid grid-cols-[11rem_1fr] items-baseline gap-x-3 py-1.5">
      {htmlFor === undefined ? (
        <span className="font-medium">{label}</span>
      ) : (
        <label htmlFor={htmlFor} className="font-medium">
          {label}
        </label>
      )}
      <div>
        {children}
        {says !== undefined && <p className="mt-0.5 text-caption text-faded">{says}</p>}
      </div>
    </div>
  );
}
