"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { CircleArrowDown, CircleArrowUp } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState, type ReactNode } from "react";
import { toast } from "sonner";
import type { Consequences } from "@/runs/service";
import { changeService } from "@/server/actions";
import { moment } from "../basic/format";
import { Tip } from "../basic/tip";
import { useOwnName } from "../basic/own-name";
import { useRead } from "../queries/use-read";
import { useAction } from "../basic/use-action";
import { WhatDepends } from "../basic/what-depends";
import { usePageRefresh } from "../basic/page-refresh";

const serviceValues = z.object({ by: z.string().max(80), reason: z.string().max(500) });
type ServiceValues = z.infer<typeof serviceValues>;

interface Props {
  readonly model: number;
  readonly version: number;
  readonly inService: boolean;
  /** Whether it is one of many in a table. */
  readonly quiet?: boolean;
  /** Said on the button, when it is not the usual. */
  readonly children?: ReactNode;
}

/** Puts a version in service or takes it out: shows what that will do, and asks who does it and why. */
export function ServiceButton({ model, version, inService, quiet = false, children }: Props) {
  const [open, setOpen] = useState(false);
  return (
    // What the button does changes with it: whoever presses twice must not undo what was just done.
    <Dialog.Root key={String(inService)} open={open} onOpenChange={setOpen}>
      <ServiceTrigger inService={inService} quiet={quiet}>
        {children}
      </ServiceTrigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-24 z-50 max-h-[80vh] w-[560px] -translate-x-1/2 overflow-auto rounded border border-ink bg-paper p-5 text-left"
        >
          <Dialog.Title className="text-section font-semibold">
            {inService ? `Take version ${version} out of service?` : `Put version ${version} in service?`}
          </Dialog.Title>
          <ServiceForm model={model} version={version} inService={inService} close={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** What opens the dialog: an icon in a row of versions, else a button with words. */
function ServiceTrigger({
  inService,
  quiet,
  children,
}: Pick<Props, "inService" | "children"> & { readonly quiet: boolean }) {
  const words = inService ? "Take out of service" : "Put in service";
  if (!quiet || children)
    return (
      <Dialog.Trigger className={`press ${inService || quiet ? "" : "press-main"}`}>
        {children ?? words}
      </Dialog.Trigger>
    );
  const Icon = inService ? CircleArrowDown : CircleArrowUp;
  return (
    <Tip text={words}>
      <Dialog.Trigger className="press press-icon" aria-label={words}>
        <Icon size={16} aria-hidden />
      </Dialog.Trigger>
    </Tip>
  );
}

function ServiceForm({ model, version, inService, close }: Props & { readonly close: () => void }) {
  const refresh = usePageRefresh();
  const { value, failure, asking } = useRead<Consequences>(`/api/models/${model}/service`);
  const [own, keepOwn] = useOwnName();
  const { register, handleSubmit } = useForm<ServiceValues>({
    resolver: zodResolver(serviceValues),
    values: { by: own, reason: "" },
    resetOptions: { keepDirtyValues: true },
  });
  const [busy, ask] = useAction();
  const [problems, setProblems] = useState<
    readonly { readonly message: string; readonly hint?: string | undefined }[]
  >([]);
  const act = async (values: ServiceValues): Promise<void> => {
    keepOwn(values.by);
    const outcome = await ask(() => changeService(model, !inService, values));
    if (!outcome.ok) return setProblems(outcome.problems);
    toast.success(inService ? `Version ${version} is out of service.` : `Version ${version} is in service.`);
    close();
    refresh();
  };
  return (
    <form onSubmit={(event) => void handleSubmit(act)(event)}>
      <WhatDepends asking={asking} failure={failure} testId="consequences">
        {value && <ConsequenceList found={value} inService={inService} />}
      </WhatDepends>
      {problems.map((problem) => (
        <p key={problem.message} role="alert" className="mb-2 text-caption text-madder">
          {problem.message} {problem.hint}
        </p>
      ))}
      <div className="flex items-end gap-3">
        <label className="w-36 text-caption text-faded">
          Who
          <input className="field mt-1 block w-full" maxLength={80} {...register("by")} />
        </label>
        <label className="flex-1 text-caption text-faded">
          Reason (stored with the change)
          <input autoFocus className="field mt-1 block w-full" maxLength={500} {...register("reason")} />
        </label>
      </div>
      <div className="mt-4 flex justify-end gap-3">
        <Dialog.Close type="button" className="press">
          Cancel
        </Dialog.Close>
        <button type="submit" className="press press-main" disabled={busy} aria-busy={busy}>
          {inService ? "Take out of service" : "Put in service"}
        </button>
      </div>
    </form>
  );
}

function ConsequenceList({
  found,
  inService,
}: {
  readonly found: Consequences;
  readonly inService: boolean;
}) {
  const { now, files, deliveries, schedules, functions } = found;
  const due = schedules.filter((schedule) => schedule.next !== null);
  return (
    <ul className="list-disc space-y-1 pl-5">
      {!inService &&
        found.doubts.map((doubt) => (
          <li key={doubt} className="text-madder">
            What changes: {doubt}
          </li>
        ))}
      {!inService &&
        (now ? (
          <li>
            Version {now.number} ({now.candidate}) is taken out of service.{" "}
            {files && (
              <>
                They were trained from different file versions, {files[0]} and {files[1]}.
              </>
            )}
          </li>
        ) : (
          <li>No version is in service now.</li>
        ))}
      {due.map((schedule) => (
        <li key={schedule.name}>
          {inService ? (
            <>
              The schedule “{schedule.name}” will fail from {moment(new Date(schedule.next!))} until another
              version is in service.
            </>
          ) : (
            <>
              The schedule “{schedule.name}” scores with version {found.version} from{" "}
              {moment(new Date(schedule.next!))} on.
            </>
          )}
        </li>
      ))}
      {!inService &&
        deliveries.map((delivery) => (
          <li key={delivery.name}>
            “{delivery.name}” writes to {delivery.tables.join(", ")}. Existing rows stay until then.
          </li>
        ))}
      {functions.length > 0 && (
        <li>
          {inService ? "Dropped immediately:" : "Switched immediately:"}{" "}
          {functions.map((name, index) => (
            <span key={name}>
              {index > 0 && ", "}
              <code>{name}</code>
            </span>
          ))}
          .
        </li>
      )}
    </ul>
  );
}
