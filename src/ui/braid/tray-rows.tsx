"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef } from "react";
import { alignWithin, areNumbers, paddedLength, type AlignedFigure } from "@/core/format/align-figures";
import { Padded } from "../basic/number-cell";

export interface PreviewPage {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
}

interface ShownColumn {
  readonly name: string;
  readonly index: number;
  readonly changed: boolean;
  /** Pixels, from the longest of its values. */
  readonly width: number;
  /** Pads a figure; undefined for a column that holds no numbers, or too long ones. */
  readonly align: ((text: string) => AlignedFigure) | undefined;
}

const CHARACTER = 7.2;
const PADDING = 22;
const CHANGED_LABEL = 48;
const MOST_CHARACTERS = 40;
const MISSING = "missing";
/** Columns drawn on either side of the visible ones. */
const OVERSCAN = 4;

/** The columns that a step changed first, each as wide as its values need. */
function columnsToShow(page: PreviewPage, touched: readonly string[]): readonly ShownColumn[] {
  const isTouched = (name: string): boolean =>
    touched.some((column) => name === column || name.startsWith(`${column}=`));
  return page.columns
    .map((name, index): ShownColumn => {
      const changed = isTouched(name);
      const texts = page.rows.flatMap((row) => row[index] ?? []);
      const align = areNumbers(texts) ? alignWithin(texts, MOST_CHARACTERS) : undefined;
      const missing = texts.length < page.rows.length ? MISSING.length : 0;
      const lengths = texts.map((text) => (align ? paddedLength(align(text)) : text.length));
      const heading = name.length + (changed ? CHANGED_LABEL / CHARACTER : 0);
      const characters = Math.min(Math.max(missing, heading, ...lengths), MOST_CHARACTERS);
      return { name, index, changed, align, width: Math.ceil(PADDING + characters * CHARACTER) };
    })
    .sort((left, right) => Number(right.changed) - Number(left.changed));
}

/** Rows after a step, with the columns it changed first and marked. Only the columns in view are drawn: there may be hundreds. */
export function RowsAfter({
  page,
  touched,
  thread,
}: {
  readonly page: PreviewPage;
  readonly touched: readonly string[];
  readonly thread: string | undefined;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const columns = useMemo(() => columnsToShow(page, touched), [page, touched]);
  const virtual = useVirtualizer({
    horizontal: true,
    count: columns.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => columns[index]!.width,
    overscan: OVERSCAN,
  });
  if (page.rows.length === 0) return <p className="px-4 py-3 text-faded">No rows remain after this step.</p>;
  const width = virtual.getTotalSize();
  const visible = virtual.getVirtualItems().map((virtualColumn) => ({
    column: columns[virtualColumn.index]!,
    place: { left: virtualColumn.start, width: virtualColumn.size },
  }));
  return (
    <div
      ref={scroller}
      tabIndex={0}
      role="table"
      aria-label="Rows after this step"
      aria-colcount={columns.length}
      className="h-full overflow-auto text-caption"
    >
      <div
        role="row"
        className="sticky top-0 z-10 h-7 border-b border-rule bg-linen"
        style={{ width, minWidth: "100%" }}
      >
        {visible.map(({ column, place }) => (
          <span
            key={column.name}
            role="columnheader"
            title={column.name}
            style={place}
            className={`absolute truncate px-2.5 py-1 font-medium ${column.align ? "text-right" : ""} ${column.changed ? "bg-weft" : "text-faded"} ${column.name === thread ? "underline" : ""}`}
          >
            {column.name}
            {column.changed && (
              <>
                {" "}
                <span className="ml-0.5 text-caption font-normal text-madder">changed</span>
              </>
            )}
          </span>
        ))}
      </div>
      {page.rows.map((row, line) => (
        <div
          key={line}
          role="row"
          className="relative h-[25px] border-b border-weft"
          style={{ width, minWidth: "100%" }}
        >
          {visible.map(({ column, place }) => (
            <span
              key={column.name}
              role="cell"
              style={place}
              className={`figure absolute h-full truncate px-2.5 py-1 ${column.changed ? "bg-paper" : ""} ${column.align ? "text-right" : ""}`}
            >
              <Value value={row[column.index] ?? null} align={column.align} />
            </span>
          ))}
        </div>
      ))}
    </div>
  );
}

function Value({ value, align }: { readonly value: string | null } & Pick<ShownColumn, "align">) {
  if (value === null) return <span className="italic text-faded">{MISSING}</span>;
  return align ? <Padded {...align(value)} /> : value;
}
