"use client";
import { useVirtualizer, type Range } from "@tanstack/react-virtual";
import { useCallback, useMemo, useRef, useState, type ClipboardEvent, type KeyboardEvent } from "react";
import type { Braid } from "@/core/plan/braid";
import { BraidHead } from "./braid-head";
import { BraidRows } from "./braid-rows";
import { bodyWidth, GROUP_HEIGHT, LABEL_WIDTH, ROLE_WIDTH, rowsOf, THREAD_HEIGHT } from "./geometry";
import type { PickKind } from "./pick-many";
import { useBraidMoves } from "./use-braid-moves";
import type { Measured } from "./use-counts";
import { useSelectedInView } from "./use-selected-in-view";

interface Props {
  readonly braid: Braid;
  readonly measured: Measured;
  /** Index of the selected crossing, or -1. */
  readonly selected: number;
  readonly onSelect: (index: number) => void;
  /** The thread that the keys are on. */
  readonly current: string | null;
  readonly picked: ReadonlySet<string>;
  readonly onThread: (id: string, pick: "only" | "more" | "none") => void;
  /** All columns up to one are picked: their threads, in order. */
  readonly onRange: (ids: readonly string[], last: string) => void;
  readonly onDrop: (from: number, onto: number) => void;
  readonly onInsertAfter: (index: number) => void;
  readonly onBeginning: (strand: string) => void;
  readonly onCopyStrand: (strand: string) => void;
  /** Other keys than those that move; true when the key was one. */
  readonly onKey: (event: KeyboardEvent) => boolean;
  readonly onPaste: (text: string) => void;
}

/** Lines that come into view and go out of it together, so that most frames of a scroll draw nothing anew. */
const BLOCK = 10;

const wholeBlocks = ({ startIndex, endIndex, count }: Range): number[] => {
  const first = Math.max(0, Math.floor(startIndex / BLOCK) - 1) * BLOCK;
  const end = Math.min(count, (Math.floor(endIndex / BLOCK) + 2) * BLOCK);
  return Array.from({ length: end - first }, (_, place) => first + place);
};

/** Columns as threads, steps as crossings. */
export function BraidView({
  braid,
  measured,
  selected,
  onSelect,
  current,
  picked,
  onThread,
  onRange,
  onDrop,
  onInsertAfter,
  onBeginning,
  onCopyStrand,
  onKey,
  onPaste,
}: Props) {
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set());
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useMemo(() => rowsOf(braid, unfolded), [braid, unfolded]);
  const threads = useMemo(
    () => rows.flatMap((row, index) => (row.kind === "thread" ? [{ id: row.thread.id, index }] : [])),
    [rows],
  );
  const width = bodyWidth(braid);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => (rows[index]?.kind === "group" ? GROUP_HEIGHT : THREAD_HEIGHT),
    rangeExtractor: wholeBlocks,
  });
  const items = virtual.getVirtualItems();
  const [first, last] = [items[0]?.index, items.at(-1)?.index];
  const placed = useMemo(
    () =>
      first === undefined || last === undefined
        ? []
        : virtual.getVirtualItems().flatMap(({ key, index, start, size }) => {
            const row = rows[index];
            return row ? [{ key, row, start, size }] : [];
          }),
    [virtual, rows, first, last],
  );

  useSelectedInView(scroller, selected, braid.crossings.length);
  const { onKeyDown, chooseRange } = useBraidMoves({
    steps: braid.crossings.length,
    selected,
    onSelect,
    threads,
    current,
    onThread,
    onRange,
    onKey,
    scrollTo: (index) => virtual.scrollToIndex(index),
  });
  const pickThread = useCallback(
    (id: string, pick: PickKind): void => (pick === "range" ? chooseRange(id) : onThread(id, pick)),
    [chooseRange, onThread],
  );
  const fold = useCallback(
    (strand: string): void =>
      setUnfolded((now) => {
        const next = new Set(now);
        if (!next.delete(strand)) next.add(strand);
        return next;
      }),
    [],
  );
  const paste = (event: ClipboardEvent): void => onPaste(event.clipboardData.getData("text"));
  return (
    <div
      ref={scroller}
      tabIndex={0}
      role="application"
      aria-label="The Braid. Left and right move between steps, up and down between columns, Space selects a column, i adds a step, Enter opens the tray."
      onKeyDown={onKeyDown}
      onPaste={paste}
      className="min-h-0 flex-1 overflow-auto border-y border-rule bg-linen will-change-scroll"
      data-testid="braid"
    >
      <div style={{ width: LABEL_WIDTH + width + ROLE_WIDTH }}>
        <BraidHead
          braid={braid}
          selected={selected}
          onSelect={onSelect}
          onDrop={onDrop}
          onInsertAfter={onInsertAfter}
        />
        <BraidRows
          rows={placed}
          height={virtual.getTotalSize()}
          braid={braid}
          width={width}
          measured={measured}
          selected={selected}
          current={current}
          picked={picked}
          unfolded={unfolded}
          onThread={pickThread}
          onFold={fold}
          onBeginning={onBeginning}
          onCopyStrand={onCopyStrand}
        />
      </div>
    </div>
  );
}
