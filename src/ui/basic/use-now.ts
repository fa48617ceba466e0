"use client";
import { useEffect, useState } from "react";

/**
 * The computer's time, again and again. @param every milliseconds between two looks
 * @returns milliseconds since 1970; undefined before the page is alive: only then is the time known
 */
export function useNow(every: number): number | undefined {
  const [now, setNow] = useState<number>();
  useEffect(() => {
    const look = (): void => setNow(Date.now());
    look();
    const timer = setInterval(look, every);
    return () => clearInterval(timer);
  }, [every]);
  return now;
}
