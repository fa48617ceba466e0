"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useQueryState } from "nuqs";
import { memo, useCallback, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from "react";
import type { Braid, Crossing, Thread } from "@/core/plan/braid";
import { bodyWidth, CROSSING_WIDTH, GROUP_HEIGHT, LABEL_WIDTH, ROLE_WIDTH, rowsOf, THREAD_HEIGHT, type BraidRow } from "./geometry";
import { Legend } from "./legend";
import { RowBand } from "./row-band";
import { completeness, MARK_WORDS, ThreadLine } from "./thread-line";
import { Tray } from "./tray";
import { useCounts } from "./use-counts";

const stepKey = (crossing: Crossing): string => `${crossing.strand}:${crossing.position + 1}`;

/** The Braid: columns as threads, steps as crossings, with the tray of the selected step beneath. */
export function BraidView({ pipeline, version, braid, action }: { readonly pipeline: string; readonly version: number; readonly braid: Braid; readonly action: ReactNode }) {
  const [step, setStep] = useQueryState("step");
  const [threadId, setThreadId] = useQueryState("thread");
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set());
  const measured = useCounts(pipeline, version, braid);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useMemo(() => rowsOf(braid, unfolded), [braid, unfolded]);
  const threads = useMemo(() => rows.flatMap((row, index) => (row.kind === "thread" ? [{ thread: row.thread, index }] : [])), [rows]);
  const selected = braid.crossings.findIndex((each) => stepKey(each) === step);
  const crossing = braid.crossings[selected];
  const current = threads.find((each) => each.thread.id === threadId);
  const width = bodyWidth(braid);
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: (index) => (rows[index]?.kind === "group" ? GROUP_HEIGHT : THREAD_HEIGHT), overscan: 10 });

  const touched = useMemo(() => (selected < 0 ? [] : touchedBy(braid, selected)), [braid, selected]);

  const choose = useCallback((index: number) => {
    const wanted = braid.crossings[Math.max(0, Math.min(braid.crossings.length - 1, index))];
    if (!wanted) return;
    void setStep(stepKey(wanted));
    const box = scroller.current;
    if (!box) return;
    const left = wanted.index * CROSSING_WIDTH;
    const room = box.clientWidth - LABEL_WIDTH - ROLE_WIDTH;
    if (left < box.scrollLeft) box.scrollLeft = left;
    else if (left + CROSSING_WIDTH > box.scrollLeft + room) box.scrollLeft = left + CROSSING_WIDTH - room;
  }, [braid.crossings, setStep]);

  const chooseThread = (position: number): void => {
    const wanted = threads[Math.max(0, Math.min(threads.length - 1, position))];
    if (!wanted) return;
    void setThreadId(wanted.thread.id);
    virtual.scrollToIndex(wanted.index);
  };

  const onKeyDown = (event: KeyboardEvent): void => {
    const on = current ? threads.indexOf(current) : -1;
    const moves: Readonly<Record<string, () => void>> = {
      ArrowRight: () => choose(selected + 1), ArrowLeft: () => choose(selected - 1),
      Home: () => choose(0), End: () => choose(braid.crossings.length - 1),
      ArrowDown: () => chooseThread(on + 1), ArrowUp: () => chooseThread(on - 1),
      Enter: () => document.getElementById("tray")?.focus(),
    };
    const move = moves[event.key];
    if (!move || event.ctrlKey || event.altKey || event.metaKey) return;
    event.preventDefault();
    move();
  };
  const fold = (strand: string): void => setUnfolded((now) => {
    const next = new Set(now);
    if (!next.delete(strand)) next.add(strand);
    return next;
  });

  return (
    <div className="flex h-full min-h-0 flex-col">
      <Legend measured={measured} action={action} />
      <div ref={scroller} tabIndex={0} role="application" aria-label="The Braid. Left and right move between steps, up and down between columns, Enter opens the tray." onKeyDown={onKeyDown} className="min-h-0 flex-1 overflow-auto border-y border-rule" data-testid="braid">
        <div style={{ width: LABEL_WIDTH + width + ROLE_WIDTH }}>
          <div className="sticky top-0 z-20 flex border-b border-rule bg-linen">
            <div className="sticky left-0 z-10 shrink-0 bg-linen px-3 py-2 text-xs text-faded" style={{ width: LABEL_WIDTH }}>columns ↓ &nbsp; steps →</div>
            <CrossingNames crossings={braid.crossings} selected={selected} onChoose={choose} />
            <div className="sticky right-0 z-10 ml-auto shrink-0 bg-linen px-2 py-2 text-xs text-faded" style={{ width: ROLE_WIDTH }}>role</div>
          </div>
          <div style={{ height: virtual.getTotalSize(), position: "relative" }}>
            {virtual.getVirtualItems().map((item) => {
              const row = rows[item.index];
              if (!row) return null;
              return (
                <div key={item.key} className="absolute left-0 flex w-full" style={{ height: item.size, transform: `translateY(${item.start}px)` }}>
                  <RowView row={row} braid={braid} width={width} measured={measured} selected={selected} current={threadId} onThread={(id) => void setThreadId(id)} onFold={fold} unfolded={unfolded} />
                </div>
              );
            })}
          </div>
        </div>
      </div>
      <p className="sr-only" aria-live="polite">{crossing && `Step ${crossing.name}. `}{current && describeThread(current.thread, selected, measured.counts)}</p>
      {current && <ThreadNote thread={current.thread} text={describeThread(current.thread, selected, measured.counts)} />}
      <Tray pipeline={pipeline} version={version} crossing={crossing} touched={touched} thread={current?.thread.name} />
    </div>
  );
}

/** The steps' names above their crossings. Scrolling draws the rows anew many times a second; these stay as they are. */
const CrossingNames = memo(function CrossingNames({ crossings, selected, onChoose }: { readonly crossings: readonly Crossing[]; readonly selected: number; readonly onChoose: (index: number) => void }) {
  return crossings.map((each) => (
    <button key={each.index} type="button" tabIndex={-1} onClick={() => onChoose(each.index)} title={each.sentence} aria-pressed={each.index === selected} className={`flex shrink-0 flex-col justify-end px-1 py-1.5 text-center text-xs leading-tight ${each.index === selected ? "bg-paper font-semibold text-madder" : "hover:bg-paper"}`} style={{ width: CROSSING_WIDTH }}>
      <span className="line-clamp-2 break-words">{each.name}</span>
      <span className="text-[10px] font-normal text-faded">{each.title.toLowerCase()}</span>
    </button>
  ));
});

/** Columns that a step writes, learns or joins: what changed in the rows after it. */
function touchedBy(braid: Braid, crossing: number): readonly string[] {
  return braid.groups.flatMap((group) => group.threads).flatMap((thread) => {
    const mark = thread.marks.find((each) => each.crossing === crossing && ["writes", "learns", "joins"].includes(each.kind));
    const stretch = thread.stretches.find((each) => each.from === crossing);
    return mark && stretch ? [stretch.column] : [];
  });
}

function describeThread(thread: Thread, crossing: number, counts: Parameters<typeof completeness>[2]): string {
  const index = thread.stretches.findLastIndex((each) => each.from <= Math.max(crossing, -1));
  const stretch = thread.stretches[index];
  const complete = stretch ? completeness(thread, index, counts) : undefined;
  const mark = thread.marks.find((each) => each.crossing === crossing);
  const state = stretch === undefined ? "not there yet" : `${stretch.type}${complete === undefined ? "" : complete === 1 ? ", complete" : `, ${(100 * (1 - complete)).toFixed(1)} % missing`}`;
  const end = thread.role ? `; ${thread.role}${thread.because ? `: ${thread.because}` : ""}` : "; ends before the last step";
  return `${thread.name}: ${state}${mark ? `; ${MARK_WORDS[mark.kind]} at this step` : ""}${end}`;
}

function ThreadNote({ thread, text }: { readonly thread: Thread; readonly text: string }) {
  return <p className="truncate border-b border-rule bg-paper px-4 py-1 text-sm" title={text}><span className="font-medium">{thread.name}</span>{text.slice(thread.name.length)}</p>;
}

interface RowProps {
  readonly row: BraidRow;
  readonly braid: Braid;
  readonly width: number;
  readonly measured: ReturnType<typeof useCounts>;
  readonly selected: number;
  readonly current: string | null;
  readonly unfolded: ReadonlySet<string>;
  readonly onThread: (id: string) => void;
  readonly onFold: (strand: string) => void;
}

function RowView({ row, braid, width, measured, selected, current, unfolded, onThread, onFold }: RowProps) {
  const label = "sticky left-0 z-10 shrink-0 bg-linen";
  switch (row.kind) {
    case "group": return (
      <>
        <div className={`${label} border-t border-weft px-3 pt-2`} style={{ width: LABEL_WIDTH }}>
          <div className="truncate font-semibold" title={row.group.strand}>{row.group.strand}</div>
          <div className="truncate text-xs text-faded" title={row.group.from}>from {row.group.from}</div>
        </div>
        <div className="border-t border-weft"><RowBand braid={braid} group={row.group} width={width} counts={measured.counts} selected={selected} /></div>
      </>
    );
    case "thread": {
      const chosen = row.thread.id === current;
      return (
        <>
          <button type="button" tabIndex={-1} onClick={() => onThread(row.thread.id)} className={`${label} truncate px-3 text-left text-[0.82rem] leading-[22px] ${chosen ? "font-semibold text-madder" : row.thread.role === undefined ? "text-faded" : ""}`} style={{ width: LABEL_WIDTH }} title={row.thread.name}>{row.thread.name}</button>
          <div className={chosen ? "bg-paper" : ""} onClick={() => onThread(row.thread.id)}>
            <ThreadLine thread={row.thread} crossings={braid.crossings.length} width={width} counts={measured.counts} selected={selected} />
          </div>
          <span className={`sticky right-0 z-10 shrink-0 truncate border-l border-weft bg-linen px-2 text-xs leading-[22px] ${ROLE_TONE[row.thread.role ?? ""] ?? "text-faded"}`} style={{ width: ROLE_WIDTH }} title={row.thread.because}>{row.thread.role}</span>
        </>
      );
    }
    case "folded": return (
      <button type="button" onClick={() => onFold(row.group.strand)} aria-expanded={unfolded.has(row.group.strand)} className={`${label} px-3 text-left text-xs leading-[22px] text-faded hover:text-ink`} style={{ width: LABEL_WIDTH }}>
        {unfolded.has(row.group.strand) ? `− fold ${row.count} untouched` : `+ ${row.count} untouched`}
      </button>
    );
  }
}

const ROLE_TONE: Readonly<Record<string, string>> = { target: "text-madder font-semibold", key: "text-weld font-medium", feature: "text-ink", excluded: "text-faded italic" };
