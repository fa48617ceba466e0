"use client";
import { useCallback, useEffect, useRef, useState } from "react";
import { fieldOf, handOn, typeInto, valueArrives } from "./typed-field";

export interface Typed {
  readonly text: string;
  readonly setText: (text: string) => void;
  /** Hands on at once what was typed. */
  readonly take: () => void;
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
  const field = useRef(fieldOf(value));
  const [text, setShown] = useState(value);
  useEffect(() => {
    field.current = valueArrives(field.current, value);
    setShown(field.current.text);
  }, [value]);
  const latest = useRef({ onChange, clean });
  latest.current = { onChange, clean };
  const take = useCallback((): void => {
    const taken = handOn(field.current, latest.current.clean);
    field.current = taken.field;
    if (taken.send !== undefined) latest.current.onChange(taken.send);
  }, []);
  const setText = useCallback((typed: string): void => {
    field.current = typeInto(field.current, typed);
    setShown(typed);
  }, []);
  useEffect(() => {
    const timer = setTimeout(take, pauseMilliseconds);
    return () => clearTimeout(timer);
  }, [text, take, pauseMilliseconds]);
  return { text, setText, take };
}
