"use client";
import { useEffect, useRef, useState } from "react";
import { postJson } from "../basic/fetch-json";
import { useDesk } from "./draft-context";

export interface Answer<T> {
  readonly value: T | undefined;
  readonly failure: string | undefined;
  readonly asking: boolean;
}

/** Answers that were given in this session, by key. */
const given = new Map<string, unknown>();
const MOST = 300;

/**
 * The answer to a question about rows at a place of the draft. It is asked again only when the rows there may have
 * changed; until the new answer comes, the old one stays.
 * @param body undefined: nothing is asked
 */
export function useAnswer<T>(
  question: string,
  body: { readonly strand: string; readonly after: number } | undefined,
  pause = 0,
): Answer<T> {
  const { surveyed, share, keys } = useDesk();
  const place = body && keys[body.strand]?.[body.after];
  const key = body && place ? JSON.stringify([question, place, body]) : undefined;
  const [answer, setAnswer] = useState<Answer<T> & { readonly key?: string }>({
    value: undefined,
    failure: undefined,
    asking: false,
  });
  const asked = useRef({ surveyed, share, body });
  asked.current = { surveyed, share, body };
  useEffect(() => {
    if (key === undefined) {
      setAnswer({ value: undefined, failure: undefined, asking: false });
      return undefined;
    }
    if (given.has(key)) {
      setAnswer({ key, value: given.get(key) as T, failure: undefined, asking: false });
      return undefined;
    }
    const stop = new AbortController();
    setAnswer((now) => ({ ...now, asking: true, failure: undefined }));
    const timer = setTimeout(() => {
      const { surveyed: text, share: of, body: wanted } = asked.current;
      postJson<T>(`/api/draft/${question}`, { text, share: of, ...wanted }, stop.signal).then(
        (value) => {
          given.set(key, value);
          const [oldest] = given.keys();
          if (given.size > MOST && oldest !== undefined) given.delete(oldest);
          setAnswer({ key, value, failure: undefined, asking: false });
        },
        (error: unknown) => {
          if (!stop.signal.aborted)
            setAnswer({
              key,
              value: undefined,
              failure: error instanceof Error ? error.message : String(error),
              asking: false,
            });
        },
      );
    }, pause);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [key, question, pause]);
  return answer;
}
