import { z } from "zod";

/** Confusion counts at a threshold: a row is predicted positive when its score is at least the threshold. */
export interface Confusion {
  readonly threshold: number;
  readonly tp: number;
  readonly fp: number;
  readonly fn: number;
  readonly tn: number;
}

export const bucketSchema = z.object({ bucket: z.number(), positives: z.number(), negatives: z.number() });
export type Bucket = z.infer<typeof bucketSchema>;

/**
 * Confusion counts at every threshold 0, 1/steps, ..., 1, from counts per bucket.
 * @returns steps + 1 entries, ascending in threshold
 */
export function confusions(buckets: readonly Bucket[], steps: number): readonly Confusion[] {
  const positives = new Float64Array(steps + 1);
  const negatives = new Float64Array(steps + 1);
  for (const each of buckets) {
    const place = Math.max(0, Math.min(steps, each.bucket));
    positives[place] = positives[place]! + each.positives;
    negatives[place] = negatives[place]! + each.negatives;
  }
  const totalPositive = positives.reduce((sum, value) => sum + value, 0);
  const totalNegative = negatives.reduce((sum, value) => sum + value, 0);
  const result: Confusion[] = new Array<Confusion>(steps + 1);
  let tp = 0;
  let fp = 0;
  for (let index = steps; index >= 0; index -= 1) {
    tp += positives[index]!;
    fp += negatives[index]!;
    result[index] = { threshold: index / steps, tp, fp, fn: totalPositive - tp, tn: totalNegative - fp };
  }
  return result;
}

export interface Rates {
  /** Share of positive rows that are found. */
  readonly recall: number;
  /** Share of negative rows raised by mistake. */
  readonly falseAlarmRate: number;
  /** Share of raised rows that are positive; 1 when none is raised, as is usual for the curve's start. */
  readonly precision: number;
  readonly accuracy: number;
  readonly f1: number;
}

const ratio = (part: number, whole: number, empty: number): number => (whole === 0 ? empty : part / whole);

export function ratesOf(counts: Confusion): Rates {
  const { tp, fp, fn, tn } = counts;
  return {
    recall: ratio(tp, tp + fn, 0),
    falseAlarmRate: ratio(fp, fp + tn, 0),
    precision: ratio(tp, tp + fp, 1),
    accuracy: ratio(tp + tn, tp + fp + fn + tn, 0),
    f1: ratio(2 * tp, 2 * tp + fp + fn, 0),
  };
}

/** Cost of the mistakes at a threshold, given what one miss and one false alarm cost, in any unit. */
export const costOf = (counts: Confusion, miss: number, falseAlarm: number): number =>
  counts.fn * miss + counts.fp * falseAlarm;

/** The threshold with the lowest cost; the highest of them when several are equal. */
export function cheapestThreshold(
  all: readonly Confusion[],
  miss: number,
  falseAlarm: number,
): Confusion | undefined {
  return all.reduce<Confusion | undefined>(
    (best, each) =>
      best === undefined || costOf(each, miss, falseAlarm) <= costOf(best, miss, falseAlarm) ? each : best,
    undefined,
  );
}

/** The threshold with the highest F1; the highest of them when several are equal. */
export function bestF1(all: readonly Confusion[]): Confusion | undefined {
  return all.reduce<Confusion | undefined>(
    (best, each) => (best === undefined || ratesOf(each).f1 >= ratesOf(best).f1 ? each : best),
    undefined,
  );
}

/** The lowest threshold that raises at most a share of the rows: as many as can be dealt with. */
export function withinCapacity(all: readonly Confusion[], share: number): Confusion | undefined {
  return all.find(({ tp, fp, fn, tn }) => tp + fp <= share * (tp + fp + fn + tn));
}

/** The highest threshold at which at least a share of the positive rows is found. */
export const withRecall = (all: readonly Confusion[], recall: number): Confusion | undefined =>
  all.findLast((each) => ratesOf(each).recall >= recall);
