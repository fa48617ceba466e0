"use client";
import { usePathname, useSearchParams } from "next/navigation";
import { useEffect, useRef, useState } from "react";
import { usePageRefresh } from "./page-refresh";
import { addressOf, ReadAheadTimes } from "./read-ahead-times";

/** A pointer that only passes over a link stays shorter than this. Milliseconds. */
const DWELL = 60;

const times = new ReadAheadTimes();

export interface ReadAhead {
  readonly wanted: boolean;
  readonly begin: () => void;
  /** The link was clicked: a page that is not being read by now is not read ahead. */
  readonly stop: () => void;
  readonly end: () => void;
}

/** Whether the page of a link is to be read before the click: once the pointer or the focus rests on the link. */
export function useReadAhead(href: string): ReadAhead {
  const [wanted, setWanted] = useState(false);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  useEffect(() => () => clearTimeout(timer.current), []);
  const stop = (): void => clearTimeout(timer.current);
  const begin = (): void => {
    stop();
    timer.current = setTimeout(() => {
      times.note(href, Date.now());
      setWanted(true);
    }, DWELL);
  };
  const end = (): void => {
    stop();
    setWanted(false);
  };
  return { wanted, begin, stop, end };
}

/** Reads a page again that is shown as it was some seconds ago, because its link was pointed at that long before the click. */
export function FreshPage() {
  const refresh = usePageRefresh();
  const path = usePathname();
  const query = useSearchParams().toString();
  const address = addressOf(query === "" ? path : `${path}?${query}`);
  useEffect(() => {
    if (times.isOld(address, Date.now())) refresh();
  }, [address, refresh]);
  return null;
}
