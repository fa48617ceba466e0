"use client";
import { useCallback, useEffect, useRef, useState } from "react";

export interface Typed {
  readonly text: string;
  readonly setText: (text: string) => void;
  /** Takes a text over at once, when it is not what was taken over last. */
  readonly take: (text: string) => void;
}

/**
 * A text while it is typed: taken over a moment after typing stops. A value that comes from elsewhere (an undo, the
 * file) replaces what stands there.
 * @param clean what becomes of a text before it is taken over
 */
export function useTyped(
  value: string,
  onChange: (value: string) => void,
  pauseMilliseconds: number,
  clean: (text: string) => string = (text) => text,
): Typed {
  const [text, setText] = useState(value);
  const sent = useRef(value);
  useEffect(() => {
    if (value === sent.current) return;
    sent.current = value;
    setText(value);
  }, [value]);
  const latest = useRef({ onChange, clean });
  latest.current = { onChange, clean };
  const take = useCallback((typed: string): void => {
    const next = latest.current.clean(typed);
    if (next === sent.current) return;
    sent.current = next;
    latest.current.onChange(next);
  }, []);
  useEffect(() => {
    const timer = setTimeout(() => take(text), pauseMilliseconds);
    return () => clearTimeout(timer);
  }, [text, take, pauseMilliseconds]);
  return { text, setText, take };
}
