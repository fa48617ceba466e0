"use client";
import { Download } from "lucide-react";
import { Popover } from "radix-ui";
import { EXPORT_FORMATS } from "../basic/export-formats";

/** Formats to export as; each is a download.
 * @param href address to which the format is added
 */
export function ExportMenu({ name, href }: { readonly name: string; readonly href: string }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="press" aria-label={name}>
        <Download size={14} aria-hidden />
        Export
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          className="z-40 flex flex-col rounded border border-ink bg-paper p-1"
        >
          {EXPORT_FORMATS.map(([format, words]) => (
            <a
              key={format}
              href={`${href}&format=${format}`}
              download
              className="rounded px-3 py-1 no-underline hover:bg-weft"
            >
              {words}
            </a>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
