"use client";
import { formatDuration } from "@/core/format/numbers";
import { useNow } from "./use-now";

const TICK_MILLISECONDS = 1000;

/** How long something has gone on, second by second. Nothing is said before the page is alive: only then is the time known. */
export function Elapsed({ since }: { readonly since: Date | string }) {
  const now = useNow(TICK_MILLISECONDS);
  if (now === undefined) return "…";
  const seconds = Math.max(0, Math.round((now - new Date(since).getTime()) / 1000));
  return `${formatDuration(1000 * seconds)} so far`;
}
