"use client";
import { useRouter } from "next/navigation";
import type { LucideIcon } from "lucide-react";
import { toast } from "sonner";
import type { Outcome } from "@/server/answer/action";
import { askToConfirm } from "./confirm";
import { Tip } from "./tip";
import { useAction } from "./use-action";
import { tellProblems } from "./tell-problems";
import { usePageRefresh } from "./page-refresh";

interface Props {
  readonly act: () => Promise<Outcome<unknown>>;
  /** What it does, in a word or two. */
  readonly children: string;
  /** Its name where the words alone do not tell it from others. */
  readonly name?: string;
  /** Shown in place of the words, which are then seen when the pointer or the keys are on it. */
  readonly icon?: LucideIcon;
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
export function ActButton(props: Props) {
  const { act, children, done, goTo, confirm } = props;
  const router = useRouter();
  const refresh = usePageRefresh();
  const [busy, ask] = useAction();
  const press = async (): Promise<void> => {
    if (confirm !== undefined && !(await askToConfirm(confirm, children))) return;
    const outcome = await ask(act);
    if (!outcome.ok) {
      tellProblems(outcome.problems);
      return;
    }
    if (done) toast.success(done);
    if (goTo) router.push(goTo(outcome.value));
    else refresh();
  };
  return <ActFace {...props} busy={busy} press={() => void press()} />;
}

/** The button: its words, or an icon with its words as a tip. */
function ActFace({
  children,
  name,
  icon: Icon,
  main,
  disabled,
  busyLabel,
  busy,
  press,
}: Props & { readonly busy: boolean; readonly press: () => void }) {
  const common = {
    type: "button" as const,
    disabled: busy || disabled,
    "aria-busy": busy,
    // The words on a button are its name; while it is busy they say so.
    "aria-label": Icon ? (name ?? children) : name,
    onClick: press,
  };
  if (Icon)
    return (
      <Tip text={children}>
        <button {...common} className="press press-icon">
          <Icon size={16} aria-hidden />
        </button>
      </Tip>
    );
  return (
    <button {...common} className={`press ${main ? "press-main" : ""}`}>
      {busy ? (busyLabel ?? children) : children}
    </button>
  );
}
