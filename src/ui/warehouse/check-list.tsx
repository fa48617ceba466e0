import { Check, OctagonAlert, TriangleAlert } from "lucide-react";
import type { RoleCheck } from "@/warehouse/port/engine";
import { CopyButton } from "../basic/copy-button";

const SIGNS = {
  good: { Icon: Check, words: "good", tone: "text-moss" },
  warning: { Icon: TriangleAlert, words: "warning", tone: "text-weld" },
  wrong: { Icon: OctagonAlert, words: "wrong", tone: "text-madder" },
} as const;

/** What was tried with both roles, and what puts right what is wrong. */
export function CheckList({ checks }: { readonly checks: readonly RoleCheck[] }) {
  return (
    <ul className="space-y-1.5">
      {checks.map(({ role, what, state, detail, remedy }) => {
        const { Icon, words, tone } = SIGNS[state];
        return (
          <li key={`${role} ${what}`} className="flex gap-2">
            <Icon size={15} aria-label={words} className={`mt-1 shrink-0 ${tone}`} />
            <div className="min-w-0">
              The {role} {what}
              {detail === undefined ? "." : `: ${detail}`}
              {remedy !== undefined && (
                <span className="mt-0.5 flex items-start gap-2">
                  <code className="figure wrap-anywhere bg-weft px-1.5 py-0.5 text-caption">{remedy}</code>
                  <CopyButton text={remedy} what="The SQL" />
                </span>
              )}
            </div>
          </li>
        );
      })}
    </ul>
  );
}
