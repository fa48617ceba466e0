import { bisectCenter } from "d3-array";
import type { Point, Series } from "./series";

/** What is read at one place of the horizontal axis: of every series the nearest point. */
export interface Reading {
  readonly x: number;
  readonly values: readonly { readonly series: Series; readonly point: Point }[];
}

/** Beyond so many places the arrow keys go on in larger steps. */
const MOST_STOPS = 60;

/**
 * @param series what the chart shows
 * @returns the values of the horizontal axis at which something can be read, ascending
 */
export function readablePlaces(series: readonly Series[]): number[] {
  const places = new Set(
    series.filter(({ silent }) => !silent).flatMap(({ points }) => points.map(({ x }) => x)),
  );
  return [...places].sort((left, right) => left - right);
}

/**
 * @param series what the chart shows
 * @param x a value of the horizontal axis
 * @returns the nearest point of each series that is read
 */
export function readAt(series: readonly Series[], x: number): Reading {
  const values = series
    .filter(({ silent, points }) => !silent && points.length > 0)
    .map((one) => {
      const sorted = [...one.points].sort((left, right) => left.x - right.x);
      const place = bisectCenter(
        sorted.map((point) => point.x),
        x,
      );
      return { series: one, point: sorted[place]! };
    });
  return { x, values };
}

/**
 * @param places values at which something can be read, ascending
 * @param at index of the current one; undefined before the first
 * @param key the key that was pressed
 * @returns the index to go to; undefined where the key does not move
 */
export function stepTo(places: readonly number[], at: number | undefined, key: string): number | undefined {
  const last = places.length - 1;
  const stride = Math.max(1, Math.round(places.length / MOST_STOPS));
  const steps: Readonly<Record<string, number>> = {
    ArrowLeft: (at ?? 0) - stride,
    ArrowDown: (at ?? 0) - stride,
    ArrowRight: at === undefined ? 0 : at + stride,
    ArrowUp: at === undefined ? 0 : at + stride,
    Home: 0,
    End: last,
  };
  const wanted = steps[key];
  return wanted === undefined || last < 0 ? undefined : Math.min(last, Math.max(0, wanted));
}
