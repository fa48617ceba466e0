"use client";
import { useCallback, type KeyboardEvent } from "react";
import type { Braid } from "@/core/plan/braid";
import { BraidView } from "./braid-view";
import { describeThread } from "./describe-thread";
import type { Adding } from "./use-adding";
import type { BraidActions } from "./use-braid-actions";
import type { BraidSelection } from "./use-braid-selection";
import type { Measured } from "./use-counts";
import { VerbLine } from "./verb-line";

interface Props {
  readonly braid: Braid;
  readonly measured: Measured;
  readonly selection: BraidSelection;
  readonly adding: Adding;
  readonly actions: BraidActions;
  readonly onKey: (event: KeyboardEvent) => boolean;
}

/** The Braid with what can be done with the picked columns beneath it. */
export function DrawnBraid({ braid, measured, selection, adding, actions, onKey }: Props) {
  const { selected, crossing, thread, pickedThreads, about, addAt, select } = selection;
  const { open } = adding;
  const onDrop = useCallback(
    (from: number, onto: number): void => {
      const moved = braid.crossings[from];
      const target = braid.crossings[onto];
      if (moved && target && moved.strand === target.strand) void actions.move(moved, target.position);
      else if (moved && target) void actions.move(moved, -1);
    },
    [braid, actions],
  );
  const onInsertAfter = useCallback(
    (index: number): void => {
      const at = braid.crossings[index];
      if (at) open({ strand: at.strand, after: at.position + 1 });
    },
    [braid, open],
  );
  const onSelect = useCallback(
    (index: number): void => {
      const at = braid.crossings[index];
      if (at) select({ strand: at.strand, after: at.position + 1 });
    },
    [braid, select],
  );
  const onBeginning = useCallback((strand: string): void => open({ strand, after: 0 }), [open]);
  const names = pickedThreads.map(({ name }) => name);
  return (
    <>
      <BraidView
        braid={braid}
        measured={measured}
        selected={selected}
        onSelect={onSelect}
        current={selection.threadId}
        picked={selection.pickedIds}
        onThread={selection.onThread}
        onRange={selection.onRange}
        onDrop={onDrop}
        onInsertAfter={onInsertAfter}
        onBeginning={onBeginning}
        onCopyStrand={actions.copyStrand}
        onKey={onKey}
        onPaste={(text) => {
          if (addAt) actions.paste(addAt, text);
        }}
      />
      <p className="sr-only" aria-live="polite">
        {crossing && `Step ${crossing.name}. `}
        {thread && describeThread(thread, selected, measured.counts)}
      </p>
      {pickedThreads.length > 0 && (
        <VerbLine
          picked={selection.pickedColumns}
          place={about?.place}
          about={pickedThreads[0] ? describeThread(pickedThreads[0], selected, measured.counts) : ""}
          threads={pickedThreads}
          onVerb={(kind) => {
            if (about) adding.insert(kind, about.place);
          }}
          onMore={() => {
            if (about) open(about.place);
          }}
          onMark={(known) => actions.mark(names, known)}
          onLeaveOut={(out) => actions.leaveOut(names, out)}
          onRole={(role) => void actions.giveRole(names, role)}
          onClear={() => selection.pick([])}
        />
      )}
    </>
  );
}
