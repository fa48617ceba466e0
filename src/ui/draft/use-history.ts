"use client";
import { useCallback, useEffect, useRef, useState, type Dispatch, type SetStateAction } from "react";
import { restored, startHistory, storable, type TextHistory } from "./history";

const keyOf = (pipeline: string): string => `ravlen history ${pipeline}`;

/** What the tab has kept of a pipeline's history. */
function read(pipeline: string): unknown {
  try {
    return JSON.parse(window.sessionStorage.getItem(keyOf(pipeline)) ?? "null") as unknown;
  } catch {
    return null;
  }
}

function write(pipeline: string, history: TextHistory, saved: string): void {
  try {
    window.sessionStorage.setItem(keyOf(pipeline), JSON.stringify({ ...storable(history), saved }));
  } catch {
    // A tab that may keep nothing still undoes what was done on this page.
  }
}

/** A history, how it is changed, and how to note which text the server has. */
export type KeptTextHistory = readonly [
  TextHistory,
  Dispatch<SetStateAction<TextHistory>>,
  noteSaved: (text: string) => void,
];

/**
 * The history of a text, which lasts across the stages of a pipeline and a reload of the tab.
 * @param text as the server has it
 */
export function useHistory(pipeline: string, text: string): KeptTextHistory {
  const [history, setHistory] = useState<TextHistory>(() => startHistory(text));
  const newest = useRef(history);
  const saved = useRef(text);
  const begun = useRef(false);
  useEffect(() => {
    newest.current = history;
    // The server draws the page without what the tab has kept.
    if (!begun.current) {
      begun.current = true;
      setHistory((now) => restored(read(pipeline), now.text));
      return;
    }
    write(pipeline, history, saved.current);
  }, [pipeline, history]);
  const noteSaved = useCallback(
    (now: string): void => {
      saved.current = now;
      write(pipeline, newest.current, now);
    },
    [pipeline],
  );
  return [history, setHistory, noteSaved];
}
