import type { Judgement } from "./judgement";
import { curveFromBuckets, type ScoreCurve } from "./score-curve";
import type { Bucket } from "./threshold";

/** The curve that a version keeps, whichever way; undefined where it predicts no yes and no. */
export const keptCurve = ({
  judgement,
  buckets,
}: {
  readonly judgement: Pick<Judgement, "curve"> | null;
  readonly buckets: readonly Bucket[];
}): ScoreCurve | undefined =>
  judgement?.curve ?? (buckets.length > 0 ? curveFromBuckets(buckets) : undefined);
