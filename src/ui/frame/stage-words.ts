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
const listeners = new Set<() => void>();

function set(words: StageWords | undefined): void {
  current = words;
  for (const listener of listeners) listener();
}

const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

/** What the desk that is open says of its stage; undefined where none is. */
export const useStageWords = (): StageWords | undefined =>
  useSyncExternalStore(
    subscribe,
    () => current,
    () => undefined,
  );

/** Lets the line of stages say what a desk knows, as long as it is open. */
export function useTellStage({ pipeline, stage, says, settled }: StageWords): void {
  useEffect(() => {
    set({ pipeline, stage, says, settled });
    return () => set(undefined);
  }, [pipeline, stage, says, settled]);
}
