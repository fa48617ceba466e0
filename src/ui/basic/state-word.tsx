import { Ban, Check, CircleDashed, LoaderCircle, X } from "lucide-react";
import type { RunState } from "@/store/schema";

const LOOK: Readonly<
  Record<RunState, { readonly icon: typeof Check; readonly tone: string; readonly word: string }>
> = {
  queued: { icon: CircleDashed, tone: "text-faded", word: "waiting" },
  running: { icon: LoaderCircle, tone: "text-woad", word: "running" },
  done: { icon: Check, tone: "text-moss", word: "done" },
  failed: { icon: X, tone: "text-madder font-semibold", word: "failed" },
  cancelled: { icon: Ban, tone: "text-faded", word: "cancelled" },
};

/** A run's state as a sign and a word; never a colour alone. */
export function StateWord({ state }: { readonly state: RunState }) {
  const { icon: Icon, tone, word } = LOOK[state];
  return (
    <span className={`inline-flex items-center gap-1.5 whitespace-nowrap ${tone}`}>
      <Icon size={14} aria-hidden className={state === "running" ? "animate-spin" : ""} />
      {word}
    </span>
  );
}
