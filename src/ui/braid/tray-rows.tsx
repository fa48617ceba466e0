"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef } from "react";

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
}

const CHARACTER = 7.2;
const PADDING = 22;
const CHANGED_LABEL = 48;
const MOST_CHARACTERS = 40;
/** Columns drawn on either side of the visible ones. */
const OVERSCAN = 4;

/** The columns that a step changed first, each as wide as its values need. */
function columnsToShow(page: PreviewPage, touched: readonly string[]): readonly ShownColumn[] {
  const isTouched = (name: string): boolean =>
    touched.some((each) => name === each || name.startsWith(`${each}=`));
  return page.columns
    .map((name, index): ShownColumn => {
      const changed = isTouched(name);
      const longest = page.rows.reduce((most, row) => Math.max(most, (row[index] ?? "missing").length), 0);
      const heading = name.length * CHARACTER + (changed ? CHANGED_LABEL : 0);
      return {
        name,
        index,
        changed,
        width: Math.ceil(
          PADDING +
            Math.max(
              Math.min(longest, MOST_CHARACTERS) * CHARACTER,
              Math.min(heading, MOST_CHARACTERS * CHARACTER),
            ),
        ),
      };
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
  const visible = virtual
    .getVirtualItems()
    .map((item) => ({ column: columns[item.index]!, place: { left: item.start, width: item.size } }));
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
            className={`absolute truncate px-2.5 py-1 font-medium ${column.changed ? "bg-weft" : "text-faded"} ${column.name === thread ? "underline" : ""}`}
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
              className={`figure absolute h-full truncate px-2.5 py-1 ${column.changed ? "bg-paper" : ""}`}
            >
              {row[column.index] ?? <span className="italic text-faded">missing</span>}
            </span>
          ))}
        </div>
      ))}
    </div>
  );
}
