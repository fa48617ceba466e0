import { z } from "zod";
import type { ScoredRows } from "./figures";
import type { Bucket, Confusion } from "./threshold";

const binSchema = z.object({
  /** Lowest and highest score in it. */
  from: z.number(),
  to: z.number(),
  /** Weight of its rows, of the positive ones, and the mean score. */
  rows: z.number(),
  positives: z.number(),
  mean: z.number(),
});
export type ScoreBin = z.infer<typeof binSchema>;

/** How the scores of yes and no order the rows, from the exact scores. Counts are sums of weights where rows have some. */
export const scoreCurveSchema = z.object({
  positives: z.number(),
  negatives: z.number(),
  /** Scores that occur, descending, with the positives and negatives that score at least as much. */
  points: z.array(z.tuple([z.number(), z.number(), z.number()])),
  /** Neighbouring scores put together, of about as many rows each. */
  bins: z.array(binSchema),
});
export type ScoreCurve = z.infer<typeof scoreCurveSchema>;

/** Depths (shares of the rows) and thresholds at which a curve is exact when it has too many scores to keep them all. */
const STEPS = 1000;
const MOST_POINTS = 2 * STEPS;
const BINS = 20;

type Point = ScoreCurve["points"][number];

/** The curve of judged rows. Equal scores are one point, so that their order says nothing. */
export function scoreCurve({ outputs, answers, weights }: ScoredRows): ScoreCurve {
  const scores = outputs[0]!;
  const order = Uint32Array.from(scores, (_, row) => row).sort(
    (left, right) => scores[right]! - scores[left]!,
  );
  const all: Point[] = [];
  let [positives, negatives] = [0, 0];
  for (let at = 0; at < order.length;) {
    const score = scores[order[at]!]!;
    for (; at < order.length && scores[order[at]!] === score; at += 1) {
      const row = order[at]!;
      const weight = weights === undefined ? 1 : weights[row]!;
      if (answers[row] === 1) positives += weight;
      else negatives += weight;
    }
    all.push([score, positives, negatives]);
  }
  return {
    positives,
    negatives,
    points: all.length <= MOST_POINTS ? all : thinned(all, positives + negatives),
    bins: binsOf(all, positives + negatives),
  };
}

/** The curve of a version that kept counts by thousandths of the score only. */
export function curveFromBuckets(buckets: readonly Bucket[]): ScoreCurve {
  const all: Point[] = [];
  let [positives, negatives] = [0, 0];
  for (const bucket of [...buckets].sort((left, right) => right.bucket - left.bucket)) {
    positives += bucket.positives;
    negatives += bucket.negatives;
    all.push([Math.max(0, bucket.bucket) / STEPS, positives, negatives]);
  }
  return { positives, negatives, points: all, bins: binsOf(all, positives + negatives) };
}

/** The points around every thousandth of the rows, and the last one at or above every thousandth of the scores. */
function thinned(all: readonly Point[], total: number): Point[] {
  const depth = ([, tp, fp]: Point): number => Math.floor(((tp + fp) / total) * STEPS);
  const level = ([score]: Point): number => Math.floor(score * STEPS);
  return all.filter((point, index) => {
    const [before, after] = [all[index - 1], all[index + 1]];
    return (
      !before ||
      !after ||
      depth(point) !== depth(before) ||
      depth(point) !== depth(after) ||
      level(point) !== level(after)
    );
  });
}

function binsOf(all: readonly Point[], total: number): ScoreBin[] {
  const bins: ScoreBin[] = [];
  let before: Point | undefined;
  let open: ScoreBin | undefined;
  let sum = 0;
  for (const point of all) {
    const [score, tp, fp] = point;
    const [positives, negatives] = [tp - (before?.[1] ?? 0), fp - (before?.[2] ?? 0)];
    const rows = positives + negatives;
    sum = (open ? sum : 0) + score * rows;
    open = {
      from: score,
      to: open?.to ?? score,
      rows: (open?.rows ?? 0) + rows,
      positives: (open?.positives ?? 0) + positives,
      mean: 0,
    };
    if (tp + fp >= ((bins.length + 1) / BINS) * total * (1 - 1e-12) || point === all.at(-1)) {
      if (open.rows > 0) bins.push({ ...open, mean: sum / open.rows });
      open = undefined;
    }
    before = point;
  }
  return bins.reverse();
}

/** Confusion counts at every threshold that changes them, ascending; the last one flags no row. */
export function curveConfusions({ points, positives, negatives }: ScoreCurve): readonly Confusion[] {
  const at = ([threshold, tp, fp]: Point): Confusion => ({
    threshold,
    tp,
    fp,
    fn: positives - tp,
    tn: negatives - fp,
  });
  const highest = points[0]?.[0] ?? 0;
  const beyond: Confusion[] =
    highest < 1 ? [{ threshold: 1, tp: 0, fp: 0, fn: positives, tn: negatives }] : [];
  return [...[...points].reverse().map(at), ...beyond];
}

/** Confusion counts at a threshold: of the rows that score at least as much. */
export function confusionAt(all: readonly Confusion[], threshold: number): Confusion {
  let [low, high] = [0, all.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (all[middle]!.threshold >= threshold) high = middle;
    else low = middle + 1;
  }
  const last = all.at(-1) ?? { tp: 0, fp: 0, fn: 0, tn: 0 };
  const found = all[low];
  if (found) return { ...found, threshold };
  return { threshold, tp: 0, fp: 0, fn: last.tp + last.fn, tn: last.fp + last.tn };
}

/**
 * Share of the positives among the rows with the highest scores; of rows that share a score, equal parts are taken.
 * @param share of all rows, 0 to 1
 */
export function gainAt({ points, positives, negatives }: ScoreCurve, share: number): number {
  const wanted = share * (positives + negatives);
  let [rows, found] = [0, 0];
  for (const [, tp, fp] of points) {
    if (tp + fp >= wanted) {
      const part = tp + fp === rows ? 0 : (wanted - rows) / (tp + fp - rows);
      return (found + part * (tp - found)) / positives;
    }
    [rows, found] = [tp + fp, tp];
  }
  return 1;
}

/** How many times as many positives the highest scores hold as chance would. */
export const liftAt = (curve: ScoreCurve, share: number): number => gainAt(curve, share) / share;
