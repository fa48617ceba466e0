import { useCallback, type KeyboardEvent } from "react";
import { between } from "./pick-many";

interface Options {
  /** Number of steps. */
  readonly steps: number;
  /** Index of the selected step, or -1. */
  readonly selected: number;
  readonly onSelect: (index: number) => void;
  /** Threads that are shown, in order, with the index of their row. */
  readonly threads: readonly { readonly id: string; readonly index: number }[];
  /** The thread that the keys are on. */
  readonly current: string | null;
  readonly onThread: (id: string, pick: "more" | "none") => void;
  readonly onRange: (ids: readonly string[], last: string) => void;
  /** Other keys than those that move; true when the key was one. */
  readonly onKey: (event: KeyboardEvent) => boolean;
  /** Brings a row into view. */
  readonly scrollTo: (row: number) => void;
}

/** Keys that move between the steps and threads of the Braid, and the choice of a range of threads. */
export function useBraidMoves(options: Options) {
  const { steps, selected, onSelect, threads, current, onThread, onRange, onKey, scrollTo } = options;
  const chooseStep = (index: number): void => {
    if (steps > 0) onSelect(Math.max(0, Math.min(steps - 1, index)));
  };
  const chooseThread = (position: number, pick: "more" | "none"): void => {
    const wanted = threads[Math.max(0, Math.min(threads.length - 1, position))];
    if (!wanted) return;
    onThread(wanted.id, pick);
    scrollTo(wanted.index);
  };
  const chooseRange = useCallback(
    (id: string): void => {
      const ids = threads.map((thread) => thread.id);
      onRange(between(ids, current, id), id);
    },
    [threads, current, onRange],
  );
  const extendTo = (position: number): void => {
    const wanted = threads[position];
    if (!wanted) return;
    chooseRange(wanted.id);
    scrollTo(wanted.index);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.target !== event.currentTarget) return;
    if (onKey(event)) {
      event.preventDefault();
      return;
    }
    if (event.ctrlKey || event.altKey || event.metaKey) return;
    const on = threads.findIndex((thread) => thread.id === current);
    const moves: Readonly<Record<string, () => void>> = {
      ArrowRight: () => chooseStep(selected + 1),
      ArrowLeft: () => chooseStep(selected - 1),
      Home: () => chooseStep(0),
      End: () => chooseStep(steps - 1),
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
  return { onKeyDown, chooseRange };
}
