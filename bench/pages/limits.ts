/** Milliseconds that a page may take on the machine that the limits were set for. */
export const MOST = {
  /** The first time after the web server started, in a browser that knows nothing of Ravlen. */
  cold: 2000,
  /** An address typed again, in the browser that has opened it before. */
  again: 1000,
  /** A click on a link that the pointer rests on. */
  click: 200,
  /** An answer of the command box. */
  answer: 100,
} as const;

/** What was measured of a page or a view, against what it may be. */
export interface Measure {
  readonly what: string;
  readonly value: number;
  readonly unit: "ms" | "frames/s";
  /** Milliseconds at most, frames per second at least. */
  readonly limit: number;
  /** How many times slower than at rest the machine was meanwhile, where that was measured. */
  readonly slowness?: number;
}

/** Whether a measure keeps its limit. On a slower machine, a time may be longer and frames fewer by the same factor. */
export const isKept = ({ unit, value, limit, slowness = 1 }: Measure): boolean =>
  unit === "ms" ? value <= limit * slowness : value >= limit / slowness;

/** The middle one of some values. */
export const median = (values: readonly number[]): number =>
  values.toSorted((left, right) => left - right)[Math.floor(values.length / 2)]!;
