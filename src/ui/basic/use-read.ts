"use client";
import { useEffect, useState } from "react";
import { fetchJson } from "./fetch-json";

/** Reads from a URL whenever it changes; undefined asks nothing. `asking` says whether an answer is awaited. */
export function useRead<T>(url: string | undefined): {
  readonly value: T | undefined;
  readonly failure: string | undefined;
  readonly asking: boolean;
} {
  const [state, setState] = useState<{
    readonly url?: string;
    readonly value?: T;
    readonly failure?: string;
  }>({});
  useEffect(() => {
    if (url === undefined) return undefined;
    const stop = new AbortController();
    fetchJson<T>(url, { signal: stop.signal }).then(
      (value) => setState({ url, value }),
      (error: unknown) => {
        if (!stop.signal.aborted)
          setState({ url, failure: error instanceof Error ? error.message : String(error) });
      },
    );
    return () => stop.abort();
  }, [url]);
  const current = state.url === url;
  return {
    value: current ? state.value : undefined,
    failure: current ? state.failure : undefined,
    asking: url !== undefined && !current,
  };
}
