"use client";
import { useQueries, type UseQueryResult } from "@tanstack/react-query";
import pLimit from "p-limit";
import { useMemo } from "react";
import type { Braid } from "@/core/plan/braid";
import { useDesk } from "../draft/draft-context";
import { postJson } from "../queries/fetch-json";
import { countKey } from "./geometry";

export interface Counts {
  readonly rows: number;
  readonly present: Readonly<Record<string, number>>;
  /** PostgreSQL's guess, until the exact count is there. */
  readonly estimated?: boolean;
}

export interface Measured {
  readonly counts: ReadonlyMap<string, Counts>;
  /** Places counted exactly, and places in all. */
  readonly done: number;
  readonly total: number;
}

interface Place {
  readonly strand: string;
  readonly after: number;
  readonly key: string;
}

/** Questions that the warehouse is asked at a time, in the order of the places. */
const limit = pLimit(2);
/** A count is known for so long after nobody shows it any more. */
const KNOWN_MILLISECONDS = 600_000;

/** Places of the Braid that can be read, in the order of execution. */
function placesOf(
  braid: Braid | undefined,
  keys: Readonly<Record<string, readonly (string | null | undefined)[]>>,
): readonly Place[] {
  if (!braid) return [];
  const all = [
    ...braid.groups.map(({ strand }) => ({ strand, after: 0 })),
    ...braid.crossings.map(({ strand, position }) => ({ strand, after: position + 1 })),
  ];
  return all.flatMap(({ strand, after }) => {
    const key = keys[strand]?.[after];
    return key ? [{ strand, after, key }] : [];
  });
}

interface Settled<T> {
  readonly data: readonly (T | undefined)[];
  readonly settled: number;
}

/** What many questions have come to; stays the same object while nothing came in. */
const settledOf = <T>(results: readonly UseQueryResult<T>[]): Settled<T> => ({
  data: results.map(({ data }) => data),
  settled: results.filter(({ isPending }) => !isPending).length,
});

/**
 * Counts at every place of the Braid: an estimate first, then the exact number, two places at a time. A place whose
 * rows did not change keeps its count; one that cannot be read has none.
 */
export function useCounts(braid: Braid | undefined): Measured {
  const { surveyed, share, keys } = useDesk();
  const places = useMemo(() => placesOf(braid, keys), [braid, keys]);
  const ask =
    <T>(question: string, { strand, after }: Place) =>
    ({ signal }: { readonly signal: AbortSignal }): Promise<T> =>
      limit(() => {
        signal.throwIfAborted();
        return postJson<T>(`/api/draft/${question}`, { text: surveyed, share, strand, after }, signal);
      });
  const estimates = useQueries({
    queries: places.map((place) => ({
      queryKey: ["estimate", place.key],
      queryFn: ask<{ readonly rows: number | null }>("estimate", place),
      gcTime: KNOWN_MILLISECONDS,
      staleTime: Infinity,
    })),
    combine: settledOf,
  });
  const areEstimated = estimates.settled === places.length;
  const exact = useQueries({
    queries: places.map((place) => ({
      queryKey: ["counts", place.key],
      queryFn: ask<Counts>("counts", place),
      gcTime: KNOWN_MILLISECONDS,
      staleTime: Infinity,
      enabled: areEstimated,
    })),
    combine: settledOf,
  });
  return useMemo(() => {
    const counts = new Map<string, Counts>();
    places.forEach(({ strand, after }, index) => {
      const counted = exact.data[index];
      const guess = estimates.data[index]?.rows;
      if (counted) counts.set(countKey(strand, after), { ...counted, estimated: false });
      else if (typeof guess === "number")
        counts.set(countKey(strand, after), { rows: guess, present: {}, estimated: true });
    });
    return { counts, done: exact.settled, total: places.length };
  }, [places, exact, estimates]);
}
