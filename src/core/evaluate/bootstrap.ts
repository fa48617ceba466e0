import { poissonCount, uniform } from "../numeric/random";
import { figureMaker, type FigureMaker, type ScoredRows } from "./figures";
import { METRIC_NAMES, type Figures, type MetricName } from "./metrics";
import type { Task } from "../learn/task";

/** From and to, of 95 % of the bootstrap samples. */
export type Interval = readonly [number, number];
export type Intervals = Readonly<Partial<Record<MetricName, Interval>>>;

/** Samples drawn. With 200 the ends of an interval wobble by about a tenth of its length. */
export const SAMPLES = 200;

/**
 * How often each row is in a bootstrap sample: Poisson numbers with mean 1, which for many rows is drawing with replacement.
 * Rows of one group are drawn together, when there are groups.
 */
export function sampleCounts(
  rows: number,
  sample: number,
  seed: number,
  groups?: ArrayLike<number>,
): Uint8Array {
  const counts = new Uint8Array(rows);
  for (let row = 0; row < rows; row += 1)
    counts[row] = poissonCount(
      uniform(groups === undefined ? row : groups[row]!, seed + 7919 * (sample + 1)),
    );
  return counts;
}

function middle(values: readonly number[]): Interval {
  const order = [...values].sort((left, right) => left - right);
  const at = (share: number): number =>
    order[Math.min(order.length - 1, Math.max(0, Math.round(share * (order.length - 1))))]!;
  return [at(0.025), at(0.975)];
}

function intervals(
  makers: readonly FigureMaker[],
  rows: number,
  seed: number,
  groups: ArrayLike<number> | undefined,
  take: (figures: readonly Figures[], name: MetricName) => number | undefined,
): Intervals {
  const found = new Map<MetricName, number[]>();
  for (let sample = 0; sample < SAMPLES; sample += 1) {
    const counts = sampleCounts(rows, sample, seed, groups);
    if (counts.every((each) => each === 0)) continue;
    const figures = makers.map((make) => make(counts));
    for (const name of METRIC_NAMES) {
      const value = take(figures, name);
      if (value !== undefined && Number.isFinite(value)) found.set(name, [...(found.get(name) ?? []), value]);
    }
  }
  return Object.fromEntries(
    [...found]
      .filter(([, values]) => values.length > SAMPLES / 2)
      .map(([name, values]) => [name, middle(values)]),
  );
}

/**
 * Confidence intervals of every figure by the bootstrap. Source: Efron and Tibshirani, An Introduction to the Bootstrap, 1993,
 * section 13.3 (percentiles).
 * @param groups group of each row, when rows of a group belong together
 */
export function figureIntervals(
  kind: Task["kind"],
  rows: ScoredRows,
  seed: number,
  groups?: ArrayLike<number>,
): Intervals {
  return intervals(
    [figureMaker(kind, rows)],
    rows.answers.length,
    seed,
    groups,
    ([figures], name) => figures?.[name] ?? undefined,
  );
}

/** Intervals of the difference of two models' figures on the same rows, second minus first: what they share cancels out. */
export function pairedIntervals(
  kind: Task["kind"],
  first: ScoredRows,
  second: ScoredRows,
  seed: number,
  groups?: ArrayLike<number>,
): Intervals {
  return intervals(
    [figureMaker(kind, first), figureMaker(kind, second)],
    first.answers.length,
    seed,
    groups,
    ([one, other], name) => {
      const [left, right] = [one?.[name], other?.[name]];
      return typeof left === "number" && typeof right === "number" ? right - left : undefined;
    },
  );
}
