"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
} from "react";
import type { Braid } from "@/core/plan/braid";
import { CrossingNames } from "./crossing-names";
import {
  bodyWidth,
  CROSSING_WIDTH,
  GROUP_HEIGHT,
  LABEL_WIDTH,
  ROLE_WIDTH,
  rowsOf,
  THREAD_HEIGHT,
} from "./geometry";
import { between } from "./pick-many";
import { RowView } from "./row-view";
import type { Measured } from "./use-counts";

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
    overscan: 10,
  });

  // The selected step is kept in view, also when it was just added or moved.
  useEffect(() => {
    const box = scroller.current;
    if (!box || selected < 0) return;
    const left = selected * CROSSING_WIDTH;
    const room = box.clientWidth - LABEL_WIDTH - ROLE_WIDTH;
    if (left < box.scrollLeft) box.scrollLeft = left;
    else if (left + CROSSING_WIDTH > box.scrollLeft + room) box.scrollLeft = left + CROSSING_WIDTH - room;
  }, [selected, braid.crossings.length]);

  const chooseStep = (index: number): void => {
    if (braid.crossings.length > 0) onSelect(Math.max(0, Math.min(braid.crossings.length - 1, index)));
  };
  const chooseThread = (position: number, pick: "more" | "none"): void => {
    const wanted = threads[Math.max(0, Math.min(threads.length - 1, position))];
    if (!wanted) return;
    onThread(wanted.id, pick);
    virtual.scrollToIndex(wanted.index);
  };
  const chooseRange = (id: string): void =>
    onRange(
      between(
        threads.map((thread) => thread.id),
        current,
        id,
      ),
      id,
    );
  const extendTo = (position: number): void => {
    const wanted = threads[position];
    if (!wanted) return;
    chooseRange(wanted.id);
    virtual.scrollToIndex(wanted.index);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.target !== event.currentTarget) return;
    if (onKey(event)) {
      event.preventDefault();
      return;
    }
    if (event.ctrlKey || event.altKey || event.metaKey) return;
    const on = threads.findIndex((each) => each.id === current);
    const moves: Readonly<Record<string, () => void>> = {
      ArrowRight: () => chooseStep(selected + 1),
      ArrowLeft: () => chooseStep(selected - 1),
      Home: () => chooseStep(0),
      End: () => chooseStep(braid.crossings.length - 1),
      ArrowDown: () => (event.shiftKey ? extendTo(on + 1) : chooseThread(on + 1, "none")),
      ArrowUp: () => (event.shiftKey ? extendTo(on - 1) : chooseThread(on - 1, "none")),
      " ": () => chooseThread(Math.max(on, 0), "more"),
      Enter: () => document.getElementById("tray")?.focus(),
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    move();
  };
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
      className="min-h-0 flex-1 overflow-auto border-y border-rule"
      data-testid="braid"
    >
      <div style={{ width: LABEL_WIDTH + width + ROLE_WIDTH }}>
        <div className="sticky top-0 z-20 flex border-b border-rule bg-linen">
          <div
            className="sticky left-0 z-20 shrink-0 bg-linen px-3 py-2 text-xs text-faded"
            style={{ width: LABEL_WIDTH }}
          >
            columns ↓ &nbsp; steps →
          </div>
          <CrossingNames
            crossings={braid.crossings}
            selected={selected}
            onChoose={onSelect}
            onDrop={onDrop}
            onInsertAfter={onInsertAfter}
          />
          <div
            className="sticky right-0 z-20 ml-auto shrink-0 bg-linen px-2 py-2 text-xs text-faded"
            style={{ width: ROLE_WIDTH }}
          >
            role
          </div>
        </div>
        <div style={{ height: virtual.getTotalSize(), position: "relative" }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index];
            if (!row) return null;
            return (
              <div
                key={item.key}
                className="absolute left-0 flex w-full"
                style={{ height: item.size, transform: `translateY(${item.start}px)` }}
              >
                <RowView
                  row={row}
                  braid={braid}
                  width={width}
                  measured={measured}
                  selected={selected}
                  current={current}
                  picked={picked}
                  onThread={(id, pick) => (pick === "range" ? chooseRange(id) : onThread(id, pick))}
                  onFold={fold}
                  unfolded={unfolded}
                  onBeginning={onBeginning}
                  onCopyStrand={onCopyStrand}
                />
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
