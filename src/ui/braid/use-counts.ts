"use client";
import { useEffect, useMemo, useState } from "react";
import type { Braid } from "@/core/plan/braid";
import { fetchJson } from "../basic/fetch-json";
import { countKey } from "./geometry";

export interface Counts {
  readonly rows: number;
  readonly present: Readonly<Record<string, number>>;
}

export interface Measured {
  readonly counts: ReadonlyMap<string, Counts>;
  readonly done: number;
  readonly total: number;
  readonly failure?: string | undefined;
}

/** Exact counts at every place of the Braid, two at a time, in the order of execution; shown as they come in. */
export function useCounts(pipeline: string, version: number, braid: Braid): Measured {
  const [counts, setCounts] = useState<ReadonlyMap<string, Counts>>(new Map());
  const [failure, setFailure] = useState<string>();
  const places = useMemo(() => [...braid.groups.map((group) => ({ strand: group.strand, after: 0 })), ...braid.crossings.map((each) => ({ strand: each.strand, after: each.position + 1 }))], [braid]);
  const total = places.length;
  useEffect(() => {
    const stop = new AbortController();
    const waiting = [...places];
    setCounts(new Map());
    setFailure(undefined);
    const next = async (): Promise<void> => {
      const place = waiting.shift();
      if (!place || stop.signal.aborted) return;
      const url = `/api/pipelines/${encodeURIComponent(pipeline)}/counts?version=${version}&strand=${encodeURIComponent(place.strand)}&after=${place.after}`;
      const answer = await fetchJson<Counts>(url, { signal: stop.signal });
      setCounts((now) => new Map(now).set(countKey(place.strand, place.after), answer));
      return next();
    };
    Promise.all([next(), next()]).catch((error: unknown) => {
      if (!stop.signal.aborted) setFailure(error instanceof Error ? error.message : String(error));
    });
    return () => stop.abort();
  }, [pipeline, version, places]);
  return { counts, done: counts.size, total, failure };
}
