"use client";
import { useQueryState } from "nuqs";
import { Tabs } from "radix-ui";
import type { ReactNode } from "react";

/** Parts of a table's page; which one is open stands in the address. */
export function TableTabs({
  parts,
}: {
  readonly parts: readonly { readonly value: string; readonly name: string; readonly content: ReactNode }[];
}) {
  const [open, setOpen] = useQueryState("show", { defaultValue: parts[0]?.value ?? "" });
  return (
    <Tabs.Root value={open} onValueChange={(value) => void setOpen(value)}>
      <Tabs.List aria-label="Table views" className="flex border-b border-rule">
        {parts.map((part) => (
          <Tabs.Trigger
            key={part.value}
            value={part.value}
            className="border-b-2 border-transparent px-3 py-1.5 text-faded data-[state=active]:border-madder data-[state=active]:font-semibold data-[state=active]:text-ink"
          >
            {part.name}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      {parts.map((part) => (
        <Tabs.Content key={part.value} value={part.value} tabIndex={-1} className="pt-2">
          {part.content}
        </Tabs.Content>
      ))}
    </Tabs.Root>
  );
}
