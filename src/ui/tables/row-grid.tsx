"use client";
import { formatNumber } from "@/core/format/numbers";
import { useVirtualizer } from "@tanstack/react-virtual";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { AlignedFigure } from "@/core/format/align-figures";
import { Padded } from "../basic/number-cell";
import { gridFigures } from "./grid-figures";
import { PAGE, useRowPages, type RowOrder } from "./use-row-pages";

const ROW_HEIGHT = 27;

export interface GridColumn {
  readonly name: string;
  readonly type: string;
  readonly numeric: boolean;
  /** Pixels. */
  readonly width?: number;
}

/**
 * A scrolling grid over rows that stay on the server: pages are fetched as they come into view.
 * @param source URL to which offset, limit, order and descending are added
 */
export function RowGrid({
  source,
  columns,
  total,
  height = 420,
  name: gridName,
}: {
  readonly source: string;
  readonly columns: readonly GridColumn[];
  readonly total: number;
  readonly height?: number;
  readonly name: string;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const [order, setOrder] = useState<RowOrder>();
  const rows = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 12,
  });
  const visible = rows.getVirtualItems();
  const first = Math.floor((visible[0]?.index ?? 0) / PAGE);
  const last = Math.floor((visible.at(-1)?.index ?? 0) / PAGE);
  const { pages, failure } = useRowPages(source, order, { first, last: total === 0 ? first - 1 : last });
  useEffect(() => {
    scroller.current?.scrollTo({ top: 0 });
  }, [source, order]);
  const figures = columns.map(({ name, numeric, width }) => ({
    numeric,
    width: width ?? Math.max(90, Math.min(240, 9 * name.length + 40)),
  }));
  const template = { gridTemplateColumns: `64px ${figures.map(({ width }) => `${width}px`).join(" ")}` };
  if (failure)
    return (
      <p role="alert" className="text-madder">
        The rows could not be read. {failure}
      </p>
    );
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label={gridName}
      aria-rowcount={total}
      aria-colcount={columns.length}
      tabIndex={0}
      className="overflow-auto border-y border-rule bg-paper"
      style={{ height: Math.min(height, 34 + ROW_HEIGHT * Math.max(3, total)) }}
    >
      <div
        role="row"
        className="sticky top-0 z-10 grid w-max min-w-full border-b border-rule bg-paper"
        style={template}
      >
        <span role="columnheader" className="px-2 py-1.5 text-right text-caption text-faded">
          row
        </span>
        {columns.map((column) => {
          const sorted = order?.column === column.name;
          const direction = order?.descending ? "descending" : "ascending";
          return (
            <div key={column.name} role="columnheader" aria-sort={sorted ? direction : "none"}>
              <button
                type="button"
                onClick={() =>
                  setOrder(
                    sorted && order.descending ? undefined : { column: column.name, descending: sorted },
                  )
                }
                title={`${column.name}, ${column.type}`}
                className={`flex w-full items-center gap-1 truncate px-2 py-1.5 text-caption font-medium ${column.numeric ? "justify-end" : ""}`}
              >
                <span className="truncate">{column.name}</span>
                {sorted &&
                  (order.descending ? (
                    <ArrowDown size={12} aria-hidden />
                  ) : (
                    <ArrowUp size={12} aria-hidden />
                  ))}
              </button>
            </div>
          );
        })}
      </div>
      {total === 0 && <p className="px-3 py-4 text-faded">No rows.</p>}
      <div style={{ height: rows.getTotalSize(), position: "relative" }}>
        {visible.map((virtualRow) => {
          const page = pages.get(Math.floor(virtualRow.index / PAGE));
          const row = page?.[virtualRow.index % PAGE];
          const aligned = page ? gridFigures(page, figures) : [];
          return (
            <div
              key={virtualRow.index}
              role="row"
              aria-rowindex={virtualRow.index + 1}
              className="absolute left-0 grid w-max min-w-full border-b border-weft"
              style={{ ...template, height: ROW_HEIGHT, transform: `translateY(${virtualRow.start}px)` }}
            >
              <span className="figure px-2 py-1 text-right text-faded">
                {formatNumber(virtualRow.index + 1)}
              </span>
              {columns.map((column, index) => (
                <span
                  key={column.name}
                  role="gridcell"
                  title={row?.[index] ?? undefined}
                  className={`figure truncate px-2 py-1 ${column.numeric ? "text-right" : ""}`}
                >
                  <GridValue value={row?.[index]} align={aligned[index]} />
                </span>
              ))}
            </div>
          );
        })}
      </div>
    </div>
  );
}

/** A value of a row: a bar until the row is there. */
function GridValue({
  value,
  align,
}: {
  readonly value: string | null | undefined;
  readonly align: ((text: string) => AlignedFigure) | undefined;
}) {
  if (value === undefined) return <span className="inline-block h-2.5 w-2/3 rounded bg-weft" />;
  if (value === null) return <span className="text-faded italic">missing</span>;
  return align ? <Padded {...align(value)} /> : value;
}
