"use client";
import { Tooltip } from "radix-ui";
import type { ReactElement, ReactNode } from "react";

const DELAY_MILLISECONDS = 250;

/** What all tips of a page share: after one was shown, the next comes at once. */
export const TipProvider = ({ children }: { readonly children: ReactNode }) => (
  <Tooltip.Provider delayDuration={DELAY_MILLISECONDS}>{children}</Tooltip.Provider>
);

/** The name of what is shown as an icon, when the pointer or the keys are on it. */
export function Tip({ text, children }: { readonly text: string; readonly children: ReactElement }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal container={typeof document === "undefined" ? null : document.getElementById("main")}>
        <Tooltip.Content
          sideOffset={4}
          className="z-50 max-w-80 rounded border border-ink bg-paper px-2 py-0.5 text-caption text-ink"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
