import { z } from "zod";
import { figureMaker, type ScoredRows } from "./figures";
import { scoreCurve, scoreCurveSchema } from "./score-curve";

/** One class against all others: how its probabilities order the rows. */
export const classCurveSchema = z.object({
  curve: scoreCurveSchema,
  auc: z.number().nullable(),
  averagePrecision: z.number().nullable(),
});
export type ClassCurve = z.infer<typeof classCurveSchema>;

/** More classes than these have no curve each: nobody looks at them, and every version would keep them. */
const MOST_CLASSES = 20;
/** Points that are kept of each curve. */
const MOST_POINTS = 200;

/** The curves of every class against the rest, by code; undefined where there are too many classes. */
export function classCurves({ outputs, answers, weights }: ScoredRows): ClassCurve[] | undefined {
  if (outputs.length > MOST_CLASSES) return undefined;
  return outputs.map((output, code) => {
    const rows: ScoredRows = {
      outputs: [output],
      answers: answers.map((answer) => (answer === code ? 1 : 0)),
      weights,
    };
    const { auc = null, average_precision: averagePrecision = null } = figureMaker("binary", rows)(undefined);
    const curve = scoreCurve(rows);
    const step = Math.ceil(curve.points.length / MOST_POINTS);
    const points = curve.points.filter((_, index) => index % step === 0 || index === curve.points.length - 1);
    return { curve: { ...curve, points, bins: [] }, auc, averagePrecision };
  });
}
