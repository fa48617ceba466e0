"use client";
import { useQueryState } from "nuqs";
import { useCallback, useMemo, useState } from "react";
import type { Braid, Crossing, Thread } from "@/core/plan/braid";
import { stepsNow } from "@/core/pipeline/edit/steps-now";
import type { DraftDesk } from "../draft/draft-context";
import { touchedBy } from "./describe-thread";
import {
  columnsAt,
  lengthOf,
  mainGroup,
  placeFor,
  placeKey,
  placesNow,
  type ColumnHere,
  type Place,
} from "./places";

export interface BraidSelection {
  /** Index of the selected crossing, or -1. */
  readonly selected: number;
  readonly crossing: Crossing | undefined;
  /** The key of the selected place, as the address has it. */
  readonly step: string | null;
  readonly select: (place: Place) => void;
  /** The thread that is walked on. */
  readonly threadId: string | null;
  readonly thread: Thread | undefined;
  /** Columns that the selected step writes or reads. */
  readonly touched: ReturnType<typeof touchedBy>;
  readonly pickedIds: ReadonlySet<string>;
  readonly pickedThreads: readonly Thread[];
  readonly pickedColumns: readonly ColumnHere[];
  /** The place where the picked columns are together. */
  readonly about: ReturnType<typeof placeFor>;
  /** Where a step would be added. */
  readonly addAt: Place | undefined;
  readonly pick: (ids: Iterable<string>) => void;
  readonly onThread: (id: string, pick: "only" | "more" | "none") => void;
  readonly onRange: (ids: readonly string[], last: string) => void;
}

const NONE: ReadonlySet<string> = new Set();

/** The picked threads as columns: as they are where they are together, else as they are at their end. */
function columnsOf(
  braid: Braid | undefined,
  about: BraidSelection["about"],
  threads: readonly Thread[],
): readonly ColumnHere[] {
  if (braid && about) {
    const here = columnsAt(braid, about.place);
    return about.names.flatMap((name) => here.find((column) => column.name === name) ?? []);
  }
  return threads.flatMap(({ id, name, stretches }) => {
    const last = stretches.at(-1);
    return last ? [{ name, type: last.type, family: last.family, bundle: false, thread: id }] : [];
  });
}

/** The end of the main strand. */
const endOf = (braid: Braid): Place => {
  const strand = mainGroup(braid)?.strand ?? "";
  return { strand, after: lengthOf(braid, strand) };
};

/** What is selected in the Braid: a step, a thread, and picked columns. Step and thread stand in the address. */
export function useBraidSelection({ braid, drawn, draft }: DraftDesk): BraidSelection {
  const [step, setStep] = useQueryState("step");
  const [threadId, setThreadId] = useQueryState("thread");
  const [pickedIds, setPickedIds] = useState(NONE);
  const select = useCallback((place: Place) => void setStep(placeKey(place)), [setStep]);
  const { text } = draft;
  // The address is of the text as it is, the drawing may be of a moment ago.
  const places = useMemo(() => placesNow(braid, stepsNow(drawn, text)), [braid, drawn, text]);
  const selected = step === null ? -1 : places.indexOf(step);
  const crossing = braid?.crossings[selected];
  const threads = useMemo(
    () =>
      new Map((braid?.groups ?? []).flatMap((group) => group.threads).map((thread) => [thread.id, thread])),
    [braid],
  );
  const pickedThreads = useMemo(
    () =>
      [...pickedIds].flatMap((id): readonly Thread[] => {
        const found = threads.get(id);
        return found ? [found] : [];
      }),
    [pickedIds, threads],
  );
  const touched = useMemo(
    () => (braid && selected >= 0 ? touchedBy(braid, selected) : []),
    [braid, selected],
  );
  const selectedPlace = crossing && { strand: crossing.strand, after: crossing.position + 1 };
  const about = braid && pickedThreads.length > 0 ? placeFor(braid, pickedThreads, selectedPlace) : undefined;
  const pickedColumns = useMemo(() => columnsOf(braid, about, pickedThreads), [braid, about, pickedThreads]);
  const wanted = about?.place ?? selectedPlace ?? (braid && endOf(braid));
  const [strandHere, afterHere] = [wanted?.strand, wanted?.after];
  // The same place is the same object, as long as it is the same place.
  const addAt = useMemo(
    (): Place | undefined =>
      strandHere === undefined || afterHere === undefined
        ? undefined
        : { strand: strandHere, after: afterHere },
    [strandHere, afterHere],
  );
  const onThread = useCallback(
    (id: string, pick: "only" | "more" | "none"): void => {
      void setThreadId(id);
      if (pick !== "none") setPickedIds((now) => pickedWith(now, id, pick));
    },
    [setThreadId],
  );
  const onRange = useCallback(
    (ids: readonly string[], last: string): void => {
      void setThreadId(last);
      setPickedIds((now) => new Set([...now, ...ids]));
    },
    [setThreadId],
  );
  return {
    selected,
    crossing,
    step,
    select,
    threadId,
    thread: threadId === null ? undefined : threads.get(threadId),
    touched,
    pickedIds,
    pickedThreads,
    pickedColumns,
    about,
    addAt,
    pick: useCallback((ids: Iterable<string>) => setPickedIds(new Set(ids)), []),
    onThread,
    onRange,
  };
}

/** The picked columns after one was pressed: it alone, or it as well; pressed again, without it. */
function pickedWith(now: ReadonlySet<string>, id: string, pick: "only" | "more"): ReadonlySet<string> {
  if (pick === "only") return now.size === 1 && now.has(id) ? NONE : new Set([id]);
  const next = new Set(now);
  if (!next.delete(id)) next.add(id);
  return next;
}
