"use client";
import { useCallback, useEffect, useState } from "react";
import type { SeenAmong } from "@/server/import-request";
import { fetchJson } from "../basic/fetch-json";

const POLL_MILLISECONDS = 600;

/** Several imports, asked for again and again while any is worked on. */
export function useImports(first: readonly SeenAmong[]): {
  readonly rows: readonly SeenAmong[];
  readonly refresh: () => void;
} {
  const [rows, setRows] = useState(first);
  const [round, setRound] = useState(0);
  const ids = first.map(({ id }) => id).join(",");
  const busy = rows.some(({ state }) => state === "looking" || state === "loading");
  useEffect(() => {
    if (!busy && round === 0) return undefined;
    let stopped = false;
    let timer: ReturnType<typeof setTimeout>;
    const look = async (): Promise<void> => {
      const found = await fetchJson<readonly SeenAmong[]>(`/api/imports?ids=${ids}`).catch(() => undefined);
      if (stopped) return;
      if (found) setRows(found);
      if (!found || found.some(({ state }) => state === "looking" || state === "loading"))
        timer = setTimeout(() => void look(), POLL_MILLISECONDS);
    };
    void look();
    return () => {
      stopped = true;
      clearTimeout(timer);
    };
  }, [ids, busy, round]);
  return { rows, refresh: useCallback(() => setRound((now) => now + 1), []) };
}
