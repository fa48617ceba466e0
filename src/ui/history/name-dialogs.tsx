"use client";
import { Dialog } from "radix-ui";
import { useRouter } from "next/navigation";
import { useState, type ReactNode } from "react";
import { toast } from "sonner";
import { isPipelineName } from "@/core/pipeline/proposal/propose-name";
import type { Problem } from "@/core/problem";
import type { Outcome } from "@/server/answer/action";
import { copyTo, renameTo } from "@/server/pipeline-actions";
import { Problems } from "../basic/problems";
import { useAction } from "../basic/use-action";

interface Wording {
  readonly title: string;
  readonly about: string;
  readonly press: string;
  readonly done: (name: string) => string;
}

/** Asks for a name and does something with it; goes to the pipeline that then has it. */
function NameDialog({
  wording,
  first,
  act,
  children,
}: {
  readonly wording: Wording;
  /** The name that stands in the field at first. */
  readonly first: string;
  readonly act: (name: string) => Promise<Outcome<string>>;
  readonly children: ReactNode;
}) {
  const router = useRouter();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState(first);
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const change = (wanted: boolean): void => {
    setOpen(wanted);
    setName(first);
    setProblems([]);
  };
  const press = async (): Promise<void> => {
    const outcome = await ask(() => act(name.trim()));
    if (!outcome.ok) return setProblems(outcome.problems);
    toast.success(wording.done(outcome.value));
    setOpen(false);
    router.push(`/pipelines/${encodeURIComponent(outcome.value)}/history`);
    router.refresh();
  };
  const wrong = name.trim() !== "" && !isPipelineName(name.trim());
  return (
    <Dialog.Root open={open} onOpenChange={change}>
      <Dialog.Trigger asChild>{children}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-24 z-50 w-[520px] -translate-x-1/2 rounded border border-ink bg-paper p-5"
        >
          <Dialog.Title className="text-lg font-semibold">{wording.title}</Dialog.Title>
          <form
            className="mt-2 space-y-3"
            onSubmit={(event) => {
              event.preventDefault();
              void press();
            }}
          >
            <p className="text-sm text-faded">{wording.about}</p>
            <label className="block">
              New name
              <input
                autoFocus
                className="field mt-1 block w-full"
                value={name}
                onFocus={(event) => event.target.select()}
                onChange={(event) => {
                  setProblems([]);
                  setName(event.target.value);
                }}
              />
            </label>
            <div role="status">
              {wrong && (
                <p className="text-sm text-madder">
                  Use letters, digits, - and _ only, at most 63 characters, starting with a letter or digit.
                </p>
              )}
              <Problems problems={problems} />
            </div>
            <div className="flex justify-end gap-3">
              <Dialog.Close type="button" className="press">
                Cancel
              </Dialog.Close>
              <button
                type="submit"
                className="press press-main"
                disabled={busy || wrong || name.trim() === "" || name.trim() === first}
                aria-busy={busy}
              >
                {wording.press}
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

interface Props {
  readonly pipeline: string;
  readonly children: ReactNode;
}

/** Makes a copy of a pipeline. */
export function CopyDialog({ pipeline, children }: Props) {
  return (
    <NameDialog
      first={pipeline}
      act={(name) => copyTo(pipeline, name)}
      wording={{
        title: `Copy ${pipeline}`,
        about:
          "The copy has the same steps and candidates. Deliveries, schedules, functions and trained versions are not copied, so nothing is delivered twice.",
        press: "Create copy",
        done: (name) => `${name} is a copy of ${pipeline}.`,
      }}
    >
      {children}
    </NameDialog>
  );
}

/** Gives a pipeline another name. */
export function RenameDialog({ pipeline, children }: Props) {
  return (
    <NameDialog
      first={pipeline}
      act={(name) => renameTo(pipeline, name)}
      wording={{
        title: `Rename ${pipeline}`,
        about:
          "Versions, runs and prediction tables stay with it. Functions in the warehouse and schedules of other pipelines that wait for it are updated. Old links redirect.",
        press: "Rename",
        done: (name) => `${pipeline} is now named ${name}.`,
      }}
    >
      {children}
    </NameDialog>
  );
}
