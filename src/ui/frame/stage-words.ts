"use client";
import { useEffect, useSyncExternalStore } from "react";

/** What a desk says of the stage that it edits, of a text that the server does not have yet. */
interface StageWords {
  readonly pipeline: string;
  readonly stage: string;
  readonly says: string;
  readonly settled: boolean;
}

let current: StageWords | undefined;
let open = false;
const listeners = new Set<() => void>();

function set(words: StageWords | undefined): void {
  current = words;
  for (const listener of listeners) listener();
}

const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

/**
 * What a desk says of its stage, or said last: the line of stages is not drawn anew when its page is left.
 * @param drawn what the line says itself; once that is new, only a desk that is open knows better
 */
export function useStageWords(drawn: unknown): StageWords | undefined {
  useEffect(() => {
    if (!open) set(undefined);
  }, [drawn]);
  return useSyncExternalStore(
    subscribe,
    () => current,
    () => undefined,
  );
}

/** Lets the line of stages say what a desk knows. */
export function useTellStage({ pipeline, stage, says, settled }: StageWords): void {
  useEffect(() => {
    open = true;
    set({ pipeline, stage, says, settled });
    return () => {
      open = false;
    };
  }, [pipeline, stage, says, settled]);
}
