"use client";
import { useEffect, useRef, useState, type Dispatch, type SetStateAction } from "react";
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

function write(pipeline: string, history: TextHistory): void {
  try {
    window.sessionStorage.setItem(keyOf(pipeline), JSON.stringify(storable(history)));
  } catch {
    // A tab that may keep nothing still undoes what was done on this page.
  }
}

/** The history of a text, which lasts across the stages of a pipeline and a reload of the tab. */
export function useHistory(
  pipeline: string,
  text: string,
): readonly [TextHistory, Dispatch<SetStateAction<TextHistory>>] {
  const [history, setHistory] = useState<TextHistory>(() => startHistory(text));
  const begun = useRef(false);
  useEffect(() => {
    // The server draws the page without what the tab has kept.
    if (!begun.current) {
      begun.current = true;
      setHistory((now) => restored(read(pipeline), now.text));
      return;
    }
    write(pipeline, history);
  }, [pipeline, history]);
  return [history, setHistory];
}
