/** Confusion counts at a threshold: a row is predicted positive when its score is at least the threshold. */
export interface Confusion {
  readonly threshold: number;
  readonly tp: number;
  readonly fp: number;
  readonly fn: number;
  readonly tn: number;
}

/** Rows of each answer that score from `bucket` to `bucket` + 1 thousandths: what versions kept before they kept curves. */
export interface Bucket {
  readonly bucket: number;
  readonly positives: number;
  readonly negatives: number;
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
    (best, confusion) =>
      best === undefined || costOf(confusion, miss, falseAlarm) <= costOf(best, miss, falseAlarm)
        ? confusion
        : best,
    undefined,
  );
}

/** The threshold with the highest F1; the highest of them when several are equal. */
export function bestF1(all: readonly Confusion[]): Confusion | undefined {
  return all.reduce<Confusion | undefined>(
    (best, confusion) => (best === undefined || ratesOf(confusion).f1 >= ratesOf(best).f1 ? confusion : best),
    undefined,
  );
}

/** The lowest threshold that raises at most a share of the rows: as many as can be dealt with. */
export function withinCapacity(all: readonly Confusion[], share: number): Confusion | undefined {
  return all.find(({ tp, fp, fn, tn }) => tp + fp <= share * (tp + fp + fn + tn));
}

/** The highest threshold at which at least a share of the positive rows is found. */
export const withRecall = (all: readonly Confusion[], recall: number): Confusion | undefined =>
  all.findLast((confusion) => ratesOf(confusion).recall >= recall);
