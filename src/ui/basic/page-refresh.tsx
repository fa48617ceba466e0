"use client";
import { useRouter } from "next/navigation";
import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useRef,
  useTransition,
  type ReactNode,
} from "react";

const PageRefresh = createContext<() => void>(() => undefined);

/** After so long a reading that did not end is no longer waited for. */
const MOST_MILLISECONDS = 30_000;

/** Reads the page again. */
export const usePageRefresh = (): (() => void) => useContext(PageRefresh);

/** Reads the page again and again, where nothing tells that it has changed. */
export function useRefreshEvery(milliseconds: number): void {
  const refresh = usePageRefresh();
  useEffect(() => {
    const timer = setInterval(refresh, milliseconds);
    return () => clearInterval(timer);
  }, [refresh, milliseconds]);
}

/**
 * One reading of the page at a time, whoever asks for it: a reading that begins before the last one is shown takes its place, and where
 * much happens on a busy computer none would ever be shown. What is asked for meanwhile is read once afterwards.
 */
export function PageRefreshProvider({ children }: { readonly children: ReactNode }) {
  const router = useRouter();
  const [reading, startReading] = useTransition();
  const begun = useRef<number | undefined>(undefined);
  const askedMeanwhile = useRef(false);
  const refresh = useCallback(() => {
    if (begun.current !== undefined && Date.now() - begun.current < MOST_MILLISECONDS) {
      askedMeanwhile.current = true;
      return;
    }
    begun.current = Date.now();
    startReading(() => router.refresh());
  }, [router]);
  useEffect(() => {
    if (reading) return;
    begun.current = undefined;
    if (!askedMeanwhile.current) return;
    askedMeanwhile.current = false;
    refresh();
  }, [reading, refresh]);
  return <PageRefresh.Provider value={refresh}>{children}</PageRefresh.Provider>;
}
