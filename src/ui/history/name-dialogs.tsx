"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useForm } from "react-hook-form";
import { z } from "zod";
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

const NAME = "Use letters, digits, - and _ only, at most 63 characters, starting with a letter or digit.";
const nameValues = z.object({ name: z.string().trim().refine(isPipelineName, NAME) });
type NameValues = z.infer<typeof nameValues>;

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
  const { register, handleSubmit, reset, watch, formState } = useForm<NameValues>({
    resolver: zodResolver(nameValues),
    defaultValues: { name: first },
    mode: "onChange",
  });
  const name = watch("name").trim();
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const change = (wanted: boolean): void => {
    setOpen(wanted);
    reset({ name: first });
    setProblems([]);
  };
  const press = async (values: NameValues): Promise<void> => {
    const outcome = await ask(() => act(values.name));
    if (!outcome.ok) return setProblems(outcome.problems);
    toast.success(wording.done(outcome.value));
    setOpen(false);
    router.push(`/pipelines/${encodeURIComponent(outcome.value)}/history`);
    router.refresh();
  };
  const wrong = name === "" ? undefined : formState.errors.name;
  return (
    <Dialog.Root open={open} onOpenChange={change}>
      <Dialog.Trigger asChild>{children}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-24 z-50 w-[520px] -translate-x-1/2 rounded border border-ink bg-paper p-5"
        >
          <Dialog.Title className="text-section font-semibold">{wording.title}</Dialog.Title>
          <form className="mt-2 space-y-3" onSubmit={(event) => void handleSubmit(press)(event)}>
            <p className="text-caption text-faded">{wording.about}</p>
            <label className="block">
              New name
              <input
                autoFocus
                className="field mt-1 block w-full"
                defaultValue={first}
                onFocus={(event) => event.target.select()}
                {...register("name", { onChange: () => setProblems([]) })}
              />
            </label>
            <div role="status">
              {wrong && <p className="text-caption text-madder">{wrong.message}</p>}
              <Problems problems={problems} />
            </div>
            <div className="flex justify-end gap-3">
              <Dialog.Close type="button" className="press">
                Cancel
              </Dialog.Close>
              <button
                type="submit"
                className="press press-main"
                disabled={busy || !isPipelineName(name) || name === first}
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
