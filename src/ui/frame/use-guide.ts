"use client";
import { useCallback, useSyncExternalStore } from "react";

/** Where somebody is on the path through the demo. */
export interface GuidePlace {
  /** From 0. */
  readonly stop: number;
  /** Whether it is shown; one that was left can be gone on with. */
  readonly open: boolean;
}

const KEY = "ravlen-guide";
const listeners = new Set<() => void>();

function read(): string | null {
  return localStorage.getItem(KEY);
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  window.addEventListener("storage", listener);
  return () => {
    listeners.delete(listener);
    window.removeEventListener("storage", listener);
  };
}

function parsePlace(text: string | null): GuidePlace | undefined {
  const [stop, state] = (text ?? "").split(" ");
  return /^\d$/.test(stop ?? "") ? { stop: Number(stop), open: state === "open" } : undefined;
}

/**
 * The place on the path, kept in the browser, and how to change it; undefined before it was begun, and
 * when it is over.
 */
export function useGuide(): readonly [
  place: GuidePlace | undefined,
  put: (place: GuidePlace | undefined) => void,
] {
  const text = useSyncExternalStore(subscribe, read, () => null);
  const put = useCallback((place: GuidePlace | undefined): void => {
    if (place) localStorage.setItem(KEY, `${place.stop} ${place.open ? "open" : "left"}`);
    else localStorage.removeItem(KEY);
    listeners.forEach((listener) => listener());
  }, []);
  return [parsePlace(text), put];
}
