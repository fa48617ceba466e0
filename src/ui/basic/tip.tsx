"use client";
import { Tooltip } from "radix-ui";
import type { ReactElement } from "react";

/** The name of what is shown as an icon, when the pointer or the keys are on it. */
export function Tip({ text, children }: { readonly text: string; readonly children: ReactElement }) {
  return (
    <Tooltip.Provider delayDuration={250}>
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
    </Tooltip.Provider>
  );
}
