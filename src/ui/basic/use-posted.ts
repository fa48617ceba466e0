"use client";
import { useEffect, useState } from "react";
import { postJson } from "./fetch-json";

/** The answer to a question whose body is JSON, asked anew whenever that changes. @param url undefined: nothing is asked */
export function usePosted<T>(
  url: string | undefined,
  body: unknown,
): { readonly value: T | undefined; readonly failure: string | undefined; readonly asking: boolean } {
  const [state, setState] = useState<{
    readonly key?: string;
    readonly value?: T;
    readonly failure?: string;
  }>({});
  const sent = JSON.stringify(body);
  const key = url === undefined ? undefined : `${url} ${sent}`;
  useEffect(() => {
    if (url === undefined || key === undefined) return undefined;
    const stop = new AbortController();
    postJson<T>(url, JSON.parse(sent), stop.signal).then(
      (value) => setState({ key, value }),
      (error: unknown) => {
        if (!stop.signal.aborted)
          setState({ key, failure: error instanceof Error ? error.message : String(error) });
      },
    );
    return () => stop.abort();
  }, [url, sent, key]);
  const current = key !== undefined && state.key === key;
  return {
    value: current ? state.value : undefined,
    failure: current ? state.failure : undefined,
    asking: key !== undefined && !current,
  };
}
