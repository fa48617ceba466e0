"use client";
import { Ellipsis } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { RefObject } from "react";
import { toast } from "sonner";
import { downloadPng, downloadSvg } from "./download";

interface Props {
  readonly title: string;
  readonly drawing: RefObject<SVGSVGElement | null>;
  /** Whether its values are shown as a table; none where there is no such table. */
  readonly table?: boolean;
  readonly onTable?: (shown: boolean) => void;
}

/** Menus belong to the page, not beside it. */
const mainOf = (): HTMLElement | null =>
  typeof document === "undefined" ? null : document.getElementById("main");

const ITEM = "cursor-default rounded px-3 py-1 outline-none data-highlighted:bg-weft";

/** What can be done with a chart: read it as a table, keep it as a file. */
export function ChartTools({ title, drawing, table = false, onTable }: Props) {
  const withDrawing = (act: (found: SVGSVGElement) => void): void => {
    if (drawing.current) act(drawing.current);
  };
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger
        className="rounded px-1 text-faded hover:bg-weft hover:text-ink print:hidden"
        aria-label={`${title}: ${onTable ? "table and download" : "download"}`}
      >
        <Ellipsis size={15} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal container={mainOf()}>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-40 rounded border border-ink bg-paper p-1 text-caption"
        >
          {onTable && (
            <DropdownMenu.Item className={ITEM} onSelect={() => onTable(!table)}>
              {table ? "Hide table" : "Show as table"}
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() => withDrawing((found) => downloadSvg(found, title))}
          >
            Download SVG
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() =>
              withDrawing((found) => {
                downloadPng(found, title).catch(() => toast.error("The chart could not be saved as PNG."));
              })
            }
          >
            Download PNG
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
