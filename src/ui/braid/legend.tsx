import type { ReactNode } from "react";
import { FAMILY_LOOK } from "./geometry";
import { Mark } from "./thread-line";
import type { Measured } from "./use-counts";

const FAMILIES = ["number", "text", "yes/no", "time"] as const;
const MARKS = [["reads", "read"], ["writes", "written"], ["learns", "learned"], ["joins", "joined"], ["ends", "ends"]] as const;

/** What lines and marks mean, and how far the counts are. */
export function Legend({ measured, action }: { readonly measured: Measured; readonly action: ReactNode }) {
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 px-4 py-1.5 text-xs text-faded">
      {FAMILIES.map((family) => (
        <span key={family} className="flex items-center gap-1.5"><svg width="26" height="8" aria-hidden><line x1="0" x2="26" y1="4" y2="4" stroke={FAMILY_LOOK[family].stroke} strokeDasharray={FAMILY_LOOK[family].dash} strokeWidth="2.6" /></svg>{family}</span>
      ))}
      <span className="flex items-center gap-1.5"><svg width="26" height="8" aria-hidden><line x1="0" x2="13" y1="4" y2="4" stroke="var(--woad)" strokeWidth="0.9" /><line x1="13" x2="26" y1="4" y2="4" stroke="var(--woad)" strokeWidth="3.3" /></svg>thin: values missing</span>
      {MARKS.map(([kind, word]) => <span key={kind} className="flex items-center gap-1"><svg width="16" height="22" aria-hidden><Mark kind={kind} x={8} stroke="var(--woad)" /></svg>{word}</span>)}
      <span className="ml-auto" role="status">{measured.failure ? <span className="text-madder">Counting stopped: {measured.failure}</span> : measured.done < measured.total ? `counting rows, ${measured.done} of ${measured.total} places` : "rows counted exactly"}</span>
      {action}
    </div>
  );
}
