"use client";
import { Download } from "lucide-react";
import { Popover } from "radix-ui";
import { EXPORT_FORMATS } from "../basic/export-formats";
import { useDesk } from "../draft/draft-context";
import type { Place } from "./places";

/** The rows after a step as a file: a form, so that the browser keeps the file as it comes. */
export function ExportStep({ place }: { readonly place: Place }) {
  const { surveyed } = useDesk();
  return (
    <Popover.Root>
      <Popover.Trigger
        className="press press-quiet px-1.5 py-1"
        aria-label="Export rows after this step"
        title="Export rows after this step"
      >
        <Download size={14} />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={4} className="z-40 rounded border border-ink bg-paper p-1">
          <form method="post" action="/api/export/step" target="_blank" className="flex flex-col">
            <input type="hidden" name="text" value={surveyed} />
            <input type="hidden" name="strand" value={place.strand} />
            <input type="hidden" name="after" value={place.after} />
            {EXPORT_FORMATS.map(([format, words]) => (
              <button
                key={format}
                type="submit"
                name="format"
                value={format}
                className="rounded px-3 py-1 text-left hover:bg-weft"
              >
                {words}
              </button>
            ))}
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
