"use client";
import { useEffect, useSyncExternalStore } from "react";

/** Something that can be done on the page that is open, for the command box. */
export interface OfferedAction {
  readonly name: string;
  /** The key that does the same. */
  readonly key?: string;
  readonly act: () => void;
}

const NOTHING: readonly OfferedAction[] = [];
let offered = NOTHING;
const listeners = new Set<() => void>();

function offer(actions: readonly OfferedAction[]): void {
  offered = actions;
  listeners.forEach((listener) => listener());
}

/** Puts what a page can do into the command box while the page is open. */
export function useOffer(actions: readonly OfferedAction[]): void {
  useEffect(() => offer(actions), [actions]);
  useEffect(() => () => offer(NOTHING), []);
}

/** What the page that is open can do. */
export function useOffered(): readonly OfferedAction[] {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => offered,
    () => NOTHING,
  );
}
