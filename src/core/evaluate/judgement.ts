import { z } from "zod";
import { METRIC_NAMES } from "./metrics";
import { classCurveSchema } from "./class-curves";
import { scoreCurveSchema } from "./score-curve";

const figures = z.partialRecord(z.enum(METRIC_NAMES), z.number().nullable());
const interval = z.tuple([z.number(), z.number()]);

const finding = z.object({
  code: z.string(),
  message: z.string(),
  hint: z.string().optional(),
  /** The feature at fault, which a further trial can leave out. */
  feature: z.string().optional(),
});
export type Finding = z.infer<typeof finding>;

/** What was found when a trial was judged; kept with it, so that nothing has to run again to be looked at. */
export const judgementSchema = z.object({
  rows: z.number(),
  figures,
  intervals: z.partialRecord(z.enum(METRIC_NAMES), interval),
  /** Why there are no intervals, when there are none. */
  noIntervals: z.string().optional(),
  /** Whether rows of a group were drawn together for the intervals. */
  byGroup: z.boolean(),
  /** The same figures with every row counting once, where `figures` are weighted. */
  unweighted: figures.optional(),
  /** Holdout rows that could not be scored, and so are not judged. */
  unscored: z.number().optional(),
  /** Rows whose class training lacks, classes without a row, and answers of 0. */
  unknownAnswers: z.number().optional(),
  absentClasses: z.array(z.number()).optional(),
  zeroAnswers: z.number().optional(),
  /** For yes and no: how the scores order the rows. */
  curve: scoreCurveSchema.optional(),
  /** The same with every row counting once, where rows have weights. */
  unweightedCurve: scoreCurveSchema.optional(),
  /** Figures of always predicting the base rate, on the same rows. */
  base: figures,
  /** Whether rows were judged inside folds, by what was learned without them, since every row trains. */
  insideFolds: z.boolean().optional(),
  /** The same figures on training rows, to be held against those above; of a share of them where there are many. */
  training: z
    .object({
      rows: z.number(),
      share: z.number(),
      figures,
      curve: scoreCurveSchema.optional(),
      pairs: z.array(z.tuple([z.number(), z.number()])).optional(),
    })
    .optional(),
  folds: z.array(z.object({ fold: z.number(), rows: z.number(), figures })),
  /** How often each class was taken for each, for several classes: matrix[answer][prediction]. */
  matrix: z.array(z.array(z.number())).optional(),
  /** For several classes, unless there are very many: each against the rest. */
  classCurves: z.array(classCurveSchema).optional(),
  /** Some rows, for numbers: predicted and actual value. */
  pairs: z.array(z.tuple([z.number(), z.number()])).optional(),
  /** Skewness of the target, for numbers. */
  skewness: z.number().optional(),
  importance: z.array(
    z.object({ column: z.string(), worse: z.number(), least: z.number(), most: z.number() }),
  ),
  /** The metric that importance is measured by, the rows it was measured on, and how many columns the model reads. */
  importanceOf: z.object({
    metric: z.enum(METRIC_NAMES),
    rows: z.number(),
    columns: z.number().optional(),
    /** Whether those were training rows, since no others are judged. */
    training: z.boolean().optional(),
  }),
  dependence: z.array(
    z.object({
      column: z.string(),
      points: z.array(
        z.object({
          at: z.union([z.number(), z.string(), z.null()]),
          outputs: z.array(z.number()),
          rows: z.number(),
        }),
      ),
    }),
  ),
  background: z.object({
    means: z.record(z.string(), z.number()),
    usual: z.record(z.string(), z.string().nullable()),
  }),
  /** What the guard found, before and after training. */
  findings: z.array(finding),
});
export type Judgement = z.infer<typeof judgementSchema>;
