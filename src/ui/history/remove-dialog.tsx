"use client";
import { AlertDialog } from "radix-ui";
import { useRouter } from "next/navigation";
import { useState, type ReactNode } from "react";
import { toast } from "sonner";
import { formatCount } from "@/core/format/numbers";
import type { Problem } from "@/core/problem";
import type { PipelineEnds } from "@/runs/pipelines/remove";
import { removeForGood } from "@/server/pipeline-actions";
import { useOwnName } from "../basic/own-name";
import { Problems } from "../basic/problems";
import { useAction } from "../basic/use-action";
import { useRead } from "../queries/use-read";
import { WhatDepends } from "../basic/what-depends";

/** Deletes a pipeline, after what ends with it was shown. */
export function RemoveDialog({
  pipeline,
  children,
}: {
  readonly pipeline: string;
  readonly children: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  return (
    <AlertDialog.Root open={open} onOpenChange={setOpen}>
      <AlertDialog.Trigger asChild>{children}</AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <AlertDialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-24 z-50 max-h-[80vh] w-[560px] -translate-x-1/2 overflow-auto rounded border border-ink bg-paper p-5"
        >
          <AlertDialog.Title className="text-section font-semibold">Delete {pipeline}?</AlertDialog.Title>
          <RemoveForm pipeline={pipeline} />
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}

function RemoveForm({ pipeline }: { readonly pipeline: string }) {
  const router = useRouter();
  const { value, failure, asking } = useRead<PipelineEnds>(
    `/api/pipelines/${encodeURIComponent(pipeline)}/ends`,
  );
  const [by, setBy] = useOwnName();
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const press = async (): Promise<void> => {
    const outcome = await ask(() => removeForGood(pipeline, by));
    if (!outcome.ok) return setProblems(outcome.problems);
    toast.success(`${pipeline} is deleted.`);
    router.push("/pipelines");
    router.refresh();
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void press();
      }}
    >
      <WhatDepends asking={asking} failure={failure} testId="ends">
        {value && <EndList ends={value} />}
      </WhatDepends>
      <Problems problems={problems} />
      <label className="block w-48 text-caption text-faded">
        Who
        <input
          className="field mt-1 block w-full"
          maxLength={80}
          value={by}
          onChange={(event) => setBy(event.target.value)}
        />
      </label>
      <div className="mt-4 flex justify-end gap-3">
        <AlertDialog.Cancel type="button" className="press">
          Cancel
        </AlertDialog.Cancel>
        <button type="submit" className="press press-main" disabled={busy || !value} aria-busy={busy}>
          Delete
        </button>
      </div>
    </form>
  );
}

function EndList({ ends }: { readonly ends: PipelineEnds }) {
  const { deliveries, schedules, functions, inService, runs, waiting, versions } = ends;
  return (
    <ul className="list-disc space-y-1 pl-5">
      {inService !== null && <li>Version {inService} is taken out of service.</li>}
      {deliveries.map(({ name, tables }) => (
        <li key={name}>
          “{name}” no longer writes to {tables.join(", ")}. Existing rows stay.
        </li>
      ))}
      {schedules.map((name) => (
        <li key={name}>The schedule “{name}” ends.</li>
      ))}
      {functions.length > 0 && <li>These warehouse functions are dropped: {functions.join(", ")}.</li>}
      {runs > 0 && <li>{formatCount(runs, "run")} waiting or running will be cancelled.</li>}
      {waiting.map((name) => (
        <li key={name} className="text-madder">
          {name} waits for its deliveries and will never run.
        </li>
      ))}
      <li>
        {versions === 0
          ? "Its runs stay listed."
          : `Its ${formatCount(versions, "version")} and its runs stay listed, with the service history.`}{" "}
        The name can be reused.
      </li>
    </ul>
  );
}
