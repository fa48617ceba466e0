"use client";
import { ChevronDown } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useEffect } from "react";
import { letDemoTimePass } from "@/server/operating-actions";
import { tellProblems } from "../basic/tell-problems";
import { usePageRefresh } from "../basic/page-refresh";

/** The demo's clock, as the frame of every page shows it. */
export interface ClockState {
  readonly text: string;
  /** Until when time is passing; null while it stands to the computer's. */
  readonly passing: string | null;
  /** Whether time can be made to pass. */
  readonly movable: boolean;
}

const REFRESH_MILLISECONDS = 1500;
const SPANS = [
  ["A day", 1],
  ["A week", 7],
  ["Four weeks", 28],
] as const;

/** Shows the demo's clock, and lets days pass, with everything that is due in them. */
export function DemoClock({ clock }: { readonly clock: ClockState }) {
  const refresh = usePageRefresh();
  const { passing } = clock;
  useEffect(() => {
    if (passing === null) return undefined;
    const timer = setInterval(() => refresh(), REFRESH_MILLISECONDS);
    return () => clearInterval(timer);
  }, [passing, refresh]);
  const pass = async (days: number): Promise<void> => {
    const outcome = await letDemoTimePass(days);
    if (!outcome.ok) tellProblems(outcome.problems);
    refresh();
  };
  const shown = (
    <span className={passing === null ? "" : "text-woad"}>
      demo clock <span className="figure">{clock.text}</span>
      {passing !== null && ` → ${passing.slice(5)}`}
    </span>
  );
  if (!clock.movable) return <span className="border-l border-rule pl-3">{shown}</span>;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex items-center gap-1 border-l border-rule pl-3"
        disabled={passing !== null}
        title="Advance the demo clock: due schedules run and new rows arrive"
        data-testid="demo-clock"
      >
        {shown}
        <ChevronDown size={13} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-50 min-w-44 border border-rule bg-paper py-1 text-caption shadow-sm"
        >
          <DropdownMenu.Label className="px-3 py-1 text-faded">Advance clock</DropdownMenu.Label>
          {SPANS.map(([name, days]) => (
            <DropdownMenu.Item
              key={name}
              onSelect={() => void pass(days)}
              className="cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-weft"
            >
              {name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
