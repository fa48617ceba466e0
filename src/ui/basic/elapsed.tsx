"use client";
import { useEffect, useState } from "react";
import { formatDuration } from "@/core/format/numbers";

const TICK_MILLISECONDS = 1000;

/** How long something has gone on, second by second. Nothing is said before the page is alive: only then is the time known. */
export function Elapsed({ since }: { readonly since: Date | string }) {
  const [now, setNow] = useState<number>();
  useEffect(() => {
    const look = (): void => setNow(Date.now());
    look();
    const timer = setInterval(look, TICK_MILLISECONDS);
    return () => clearInterval(timer);
  }, []);
  if (now === undefined) return "…";
  const seconds = Math.max(0, Math.round((now - new Date(since).getTime()) / 1000));
  return `${formatDuration(1000 * seconds)} so far`;
}
