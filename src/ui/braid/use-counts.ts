"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Braid } from "@/core/plan/braid";
import { postJson } from "../basic/fetch-json";
import { useDesk } from "../draft/draft-context";
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

/**
 * Counts at every place of the Braid, in the order of execution: an estimate at once, the exact number as it comes in,
 * two at a time. A place whose rows did not change keeps its count; one that cannot be read has none.
 */
export function useCounts(braid: Braid | undefined): Measured {
  const { surveyed, share, keys } = useDesk();
  const [known, setKnown] = useState<ReadonlyMap<string, Counts>>(new Map());
  const [unreadable, setUnreadable] = useState<ReadonlySet<string>>(new Set());
  const places = useMemo((): readonly Place[] => {
    const all = braid
      ? [
          ...braid.groups.map((group) => ({ strand: group.strand, after: 0 })),
          ...braid.crossings.map((each) => ({ strand: each.strand, after: each.position + 1 })),
        ]
      : [];
    return all.flatMap((each) => {
      const key = keys[each.strand]?.[each.after];
      return !key ? [] : [{ ...each, key }];
    });
  }, [braid, keys]);
  const latest = useRef({ known, unreadable, surveyed, share });
  latest.current = { known, unreadable, surveyed, share };
  useEffect(() => {
    const stop = new AbortController();
    const { surveyed: text, share: of } = latest.current;
    const open = (exact: boolean): Place[] =>
      places.filter(({ key }) => {
        const found = latest.current.known.get(key);
        return found === undefined || (exact && found.estimated === true);
      });
    const work = async (
      waiting: Place[],
      question: string,
      take: (place: Place, answer: unknown) => Counts | undefined,
    ): Promise<void> => {
      for (let place = waiting.shift(); place && !stop.signal.aborted; place = waiting.shift()) {
        const { key, ...asked } = place;
        try {
          const counts = take(
            place,
            await postJson<unknown>(`/api/draft/${question}`, { text, share: of, ...asked }, stop.signal),
          );
          if (counts)
            setKnown((now) => (now.get(key)?.estimated === false ? now : new Map(now).set(key, counts)));
        } catch {
          if (!stop.signal.aborted) setUnreadable((now) => new Set(now).add(key));
        }
      }
    };
    const guesses = open(false);
    const guess = (): Promise<void> =>
      work(guesses, "estimate", (_, answer) => {
        const { rows } = answer as { readonly rows: number | null };
        return rows === null ? undefined : { rows, present: {}, estimated: true };
      });
    const exact = open(true);
    const count = (): Promise<void> =>
      work(exact, "counts", (_, answer) => ({ ...(answer as Counts), estimated: false }));
    void Promise.all([guess(), guess()]).then(() => Promise.all([count(), count()]));
    return () => stop.abort();
  }, [places]);
  return useMemo(() => {
    const counts = new Map<string, Counts>();
    for (const place of places) {
      const found = known.get(place.key);
      if (found) counts.set(countKey(place.strand, place.after), found);
    }
    const exact = places.filter((each) => known.get(each.key)?.estimated === false).length;
    return {
      counts,
      done: exact + places.filter((each) => unreadable.has(each.key)).length,
      total: places.length,
    };
  }, [places, known, unreadable]);
}
