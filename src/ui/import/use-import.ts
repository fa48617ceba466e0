"use client";
import { useCallback, useEffect, useState } from "react";
import type { SeenImport } from "@/server/import-request";
import { fetchJson } from "../basic/fetch-json";

const POLL_MILLISECONDS = 500;

/** An import, asked for again and again while it is worked on. */
export function useImport(
  id: string,
  first: SeenImport,
): { readonly row: SeenImport; readonly refresh: () => void } {
  const [row, setRow] = useState(first);
  const [round, setRound] = useState(0);
  const busy = row.state === "looking" || row.state === "loading";
  useEffect(() => {
    if (!busy && round === 0) return undefined;
    let stopped = false;
    let timer: ReturnType<typeof setTimeout>;
    const look = async (): Promise<void> => {
      const found = await fetchJson<SeenImport>(`/api/imports/${id}`).catch(() => undefined);
      if (stopped) return;
      if (found) setRow(found);
      if (!found || found.state === "looking" || found.state === "loading")
        timer = setTimeout(() => void look(), POLL_MILLISECONDS);
    };
    void look();
    return () => {
      stopped = true;
      clearTimeout(timer);
    };
  }, [id, busy, round]);
  return { row, refresh: useCallback(() => setRound((now) => now + 1), []) };
}
