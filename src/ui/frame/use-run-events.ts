"use client";
import { useEffect } from "react";
import { usePageRefresh } from "../basic/page-refresh";

const QUIET_MILLISECONDS = 350;

/** Reads the page again when a run changes: every run, or only the named one. Bursts are read once. */
export function useRunEvents(runId?: string): void {
  const refresh = usePageRefresh();
  useEffect(() => {
    const source = new EventSource("/api/runs/events");
    let timer: ReturnType<typeof setTimeout> | undefined;
    source.addEventListener("run", (event) => {
      if (runId !== undefined && (event as MessageEvent<string>).data !== runId) return;
      timer ??= setTimeout(() => {
        timer = undefined;
        refresh();
      }, QUIET_MILLISECONDS);
    });
    return () => {
      source.close();
      clearTimeout(timer);
    };
  }, [refresh, runId]);
}
