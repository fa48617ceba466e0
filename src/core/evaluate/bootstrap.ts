import { poissonCounts } from "../numeric/random";
import { figureMaker, type ScoredRows } from "./figures";
import { METRIC_NAMES, type MetricName } from "./metrics";
import { relativeFigure } from "./relative";
import type { Task } from "../learn/task";

/** From and to, of 95 % of the bootstrap samples. */
export type Interval = readonly [number, number];
export type Intervals = Readonly<Partial<Record<MetricName, Interval>>>;

/** Samples drawn: the ends of an interval then move by about a thirtieth of its length from seed to seed. */
export const SAMPLES = 2000;
const SAMPLES_AT_A_TIME = 10;
/** Fewer groups say nothing about how groups differ. */
export const LEAST_GROUPS = 10;

/** What intervals are wanted of: the figures of one model; of two on the same rows, second minus first; or of the first against the second as its base. */
export interface IntervalQuestion {
  readonly kind: Task["kind"];
  readonly scored: readonly [ScoredRows] | readonly [ScoredRows, ScoredRows];
  readonly against?: "difference" | "base";
  readonly seed: number;
  /** Share of the samples that an interval holds; 0.95 when left out. */
  readonly level?: number;
  /** Group of each row, when rows of a group belong together. */
  readonly groups?: ArrayLike<number> | undefined;
}

/** Intervals, or why there are none. */
export interface IntervalAnswer {
  readonly intervals: Intervals;
  readonly because?: string;
}

/** Values of every figure in some of the samples, by metric; NaN where a sample has none. */
export type Draws = Readonly<Partial<Record<MetricName, Float64Array>>>;

/** Why there can be no intervals; undefined when there can. */
export function noIntervals({ groups }: Pick<IntervalQuestion, "groups">): string | undefined {
  if (groups === undefined) return undefined;
  const found = new Set(Array.from(groups)).size;
  return found < LEAST_GROUPS
    ? `Rows belong together in ${found} ${found === 1 ? "group" : "groups"}; an interval needs at least ${LEAST_GROUPS}.`
    : undefined;
}

/**
 * Figures of the samples `from` up to, not including, `until`. Every sample depends on the seed and its own number alone, so
 * that they can be taken in parts, anywhere.
 * @param goesOn called after every few samples
 */
export function drawFigures(
  question: IntervalQuestion,
  from: number,
  until: number,
  goesOn: () => void = () => undefined,
): Draws {
  const { kind, scored, seed, groups } = question;
  const makers = scored.map((rows) => figureMaker(kind, rows));
  // Rows of one group have one number, so that they are drawn together.
  const numbers = Float64Array.from(scored[0].answers, (_, row) => groups?.[row] ?? row);
  const draws: Partial<Record<MetricName, Float64Array>> = {};
  for (let sample = from; sample < until; sample += 1) {
    // Poisson numbers with mean 1, which for many rows is drawing with replacement.
    const counts = poissonCounts(numbers, seed + 7919 * (sample + 1));
    const figures = makers.map((make) => make(counts));
    for (const name of METRIC_NAMES) {
      const [first, second] = figures.map((figure) => figure[name]);
      if (first === undefined) continue;
      const values = (draws[name] ??= new Float64Array(until - from).fill(Number.NaN));
      values[sample - from] = combined(question, name, first, second);
    }
    if (sample % SAMPLES_AT_A_TIME === 0) goesOn();
  }
  return draws;
}

function combined(
  { scored, against }: IntervalQuestion,
  name: MetricName,
  first: number | null,
  second: number | null | undefined,
): number {
  if (scored.length === 1) return first ?? NaN;
  if (against === "base") return relativeFigure(name, first, second) ?? NaN;
  return (second ?? NaN) - (first ?? NaN);
}

/**
 * Intervals out of all draws, by percentiles. A figure that fewer than half of the samples have gets none.
 * Source: Efron and Tibshirani, An Introduction to the Bootstrap, 1993, section 13.3.
 */
export function intervalsFrom(parts: readonly Draws[], level = 0.95): Intervals {
  const found: Partial<Record<MetricName, Interval>> = {};
  for (const name of METRIC_NAMES) {
    const values = parts.flatMap((part) => [...(part[name] ?? [])]).filter((value) => Number.isFinite(value));
    if (values.length <= SAMPLES / 2) continue;
    const order = Float64Array.from(values).sort();
    const at = (share: number): number => order[Math.round(share * (order.length - 1))]!;
    found[name] = [at((1 - level) / 2), at((1 + level) / 2)];
  }
  return found;
}

/** All of it in one go, where the question is small. */
export function intervalsOf(question: IntervalQuestion): IntervalAnswer {
  const because = noIntervals(question);
  if (because !== undefined) return { intervals: {}, because };
  return { intervals: intervalsFrom([drawFigures(question, 0, SAMPLES)], question.level) };
}
