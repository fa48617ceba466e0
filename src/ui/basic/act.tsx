"use client";
import { useRouter } from "next/navigation";
import type { ReactNode } from "react";
import { toast } from "sonner";
import type { Outcome } from "@/server/answer/action";
import { useAction } from "./use-action";
import { tellProblems } from "./tell-problems";
import { usePageRefresh } from "./page-refresh";

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
  const refresh = usePageRefresh();
  const [busy, ask] = useAction();
  const press = async (): Promise<void> => {
    if (confirm !== undefined && !window.confirm(confirm)) return;
    const outcome = await ask(act);
    if (!outcome.ok) {
      tellProblems(outcome.problems);
      return;
    }
    if (done) toast.success(done);
    if (goTo) router.push(goTo(outcome.value));
    else refresh();
  };
  return (
    <button
      type="button"
      className={`press ${main ? "press-main" : ""}`}
      disabled={busy || disabled}
      aria-busy={busy}
      onClick={() => void press()}
    >
      {busy ? (busyLabel ?? children) : children}
    </button>
  );
}
