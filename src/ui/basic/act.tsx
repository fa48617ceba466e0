"use client";
import { useRouter } from "next/navigation";
import { useTransition, type ReactNode } from "react";
import { toast } from "sonner";
import type { Outcome } from "@/server/actions";
import { askForChange } from "./use-action";
import { tellProblems } from "./tell-problems";

interface Props {
  readonly act: () => Promise<Outcome<unknown>>;
  readonly children: ReactNode;
  readonly main?: boolean;
  /** Said when it worked. */
  readonly done?: string;
  /** Where to go afterwards, given what the change made. */
  readonly goTo?: (value: unknown) => string;
  /** Asked before, when the change has consequences. */
  readonly confirm?: string;
  readonly disabled?: boolean;
  /** Shown on the button while the change is made, where that takes long. */
  readonly busyLabel?: string;
}

/** A button that makes a change on the server and says how it went. */
export function ActButton({ act, children, main, done, goTo, confirm, disabled, busyLabel }: Props) {
  const router = useRouter();
  const [busy, start] = useTransition();
  const press = (): void => {
    if (confirm !== undefined && !window.confirm(confirm)) return;
    start(async () => {
      const outcome = await askForChange(act);
      if (!outcome.ok) {
        tellProblems(outcome.problems);
        return;
      }
      if (done) toast.success(done);
      if (goTo) router.push(goTo(outcome.value));
      else router.refresh();
    });
  };
  return (
    <button
      type="button"
      className={`press ${main ? "press-main" : ""}`}
      disabled={busy || disabled}
      aria-busy={busy}
      onClick={press}
    >
      {busy ? (busyLabel ?? children) : children}
    </button>
  );
}
