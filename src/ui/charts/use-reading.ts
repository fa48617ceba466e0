"use client";
import { bisectCenter } from "d3-array";
import { useMemo, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { PlotLayout } from "./layout";
import { readAt, readablePlaces, stepTo, type Reading } from "./reading";
import type { Series } from "./series";

export interface ReadingControl {
  readonly reading: Reading | undefined;
  /** Index of the reading, and how many there are. */
  readonly at: number;
  readonly count: number;
  readonly onPointerMove: (event: PointerEvent<HTMLElement>) => void;
  readonly onKeyDown: (event: KeyboardEvent<HTMLElement>) => void;
  readonly leave: () => void;
}

/** Which place of a chart is read, by pointer or by arrow keys. */
export function useReading(series: readonly Series[], { x }: PlotLayout): ReadingControl {
  const places = useMemo(() => readablePlaces(series), [series]);
  const [at, setAt] = useState<number>();
  return {
    reading: at === undefined || places[at] === undefined ? undefined : readAt(series, places[at]),
    at: at ?? 0,
    count: places.length,
    onPointerMove: (event) => {
      const box = event.currentTarget.getBoundingClientRect();
      setAt(bisectCenter(places, x.valueAt(x.range[0] + event.clientX - box.left)));
    },
    onKeyDown: (event) => {
      if (event.key === "Escape") return setAt(undefined);
      const next = stepTo(places, at, event.key);
      if (next === undefined) return;
      event.preventDefault();
      setAt(next);
    },
    leave: () => setAt(undefined),
  };
}
