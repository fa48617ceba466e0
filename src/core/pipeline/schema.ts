import { z } from "zod";
import { METRIC_NAMES } from "../evaluate/metrics";
import { ALGORITHM_NAMES, ALGORITHMS, type Algorithm } from "../learn/algorithms";
import { foldsSchema, holdoutSchema } from "./holdout-schema";
import { deliverySchema, functionsSchema, retrainingSchema, scheduleSchema } from "./operating-schema";
import { STEP_KINDS } from "../steps";
import { expressionText } from "../steps/step";

/** The format this version writes. Older formats are migrated when read. */
export const FORMAT = 1;

const scalar = z.union([z.string(), z.number(), z.boolean()]);

const brief = z.strictObject({
  question: z.string().optional().describe("What should be predicted, as a colleague would ask it."),
  row: z.string().optional().describe("What one row is."),
  moment: z
    .strictObject({
      when: z.string().describe("The time of prediction, in words."),
      column: z.string().optional().describe("The column with that time."),
    })
    .optional(),
  users: z.string().optional().describe("Who uses the predictions, and how."),
  expectations: z
    .array(
      z.union([
        z.string(),
        z.strictObject({
          expect: z.string().min(1),
          found: z.string().optional().describe("Finding, written later."),
          held: z.enum(["yes", "partly", "no"]).optional(),
        }),
      ]),
    )
    .optional()
    .describe("Expectations about the data, written before looking at it, and later the findings."),
  success: z
    .strictObject({
      metric: z.enum(METRIC_NAMES),
      at_least: z.number().optional(),
      at_most: z.number().optional(),
    })
    .optional()
    .describe("The metric and level that count as success."),
});

const kinds = STEP_KINDS.map((stepKind) => stepKind.settings);
const step = z.discriminatedUnion("do", kinds as [z.ZodObject, ...z.ZodObject[]]);

const strand = z.strictObject({
  name: z.string().min(1).max(60),
  note: z.string().optional(),
  from: z.union([
    z.string().describe("A warehouse table, as schema.table. Parts with dots or quotes go in double quotes."),
    z.strictObject({ schema: z.string().min(1), table: z.string().min(1) }),
    z.strictObject({ strand: z.string().min(1) }).describe("Another strand."),
  ]),
  steps: z.array(step).default([]),
});

/** Values on one side of yes and no. */
const sideSchema = z.union([scalar, z.array(scalar).min(1)]);

const roles = z.strictObject({
  key: z.array(z.string()).min(1).describe("Columns that identify one row. Unique and never missing."),
  target: z.strictObject({
    column: z.string(),
    kind: z.enum(["binary", "number", "classes"]),
    positive: sideSchema
      .optional()
      .describe(
        "For binary targets that are not yes/no: the value that counts as positive, or a list of them.",
      ),
    negative: sideSchema
      .optional()
      .describe(
        "For binary targets that are not yes/no: the value that counts as negative, or a list of them; rows with other values are excluded. All other values if omitted.",
      ),
  }),
  time: z.string().optional().describe("The column that orders rows in time."),
  group: z.string().optional().describe("Rows with the same value belong together."),
  weight: z.string().optional().describe("A column of row weights."),
  exclude: z
    .array(z.strictObject({ column: z.string(), because: z.string() }))
    .default([])
    .describe("Columns that are not features, each with a reason."),
  known: z
    .record(z.string(), z.enum(["before", "at", "after"]))
    .default({})
    .describe("When a column becomes known, relative to the time of prediction."),
});

const rows = z.strictObject({
  from: z.string().describe("The strand whose final rows are used for training and scoring."),
  train: expressionText.optional().describe("Condition for training rows. Rows with a target if omitted."),
  score: expressionText.optional().describe("Condition for rows to score. Rows without a target if omitted."),
});

const range = z.strictObject({
  step: z
    .string()
    .optional()
    .describe("Name of the step whose setting is searched; settings of the algorithm if omitted."),
  setting: z.string().min(1).describe("The setting, such as ridge."),
  values: z
    .array(z.union([scalar, z.array(z.number())]))
    .min(1)
    .optional()
    .describe("Values to try."),
  from: z.number().optional().describe("Smallest value, when a range is tried instead of values."),
  to: z.number().optional().describe("Largest value."),
  scale: z
    .enum(["linear", "log"])
    .default("linear")
    .describe("log: as many values between 0.01 and 0.1 as between 0.1 and 1."),
  whole: z.boolean().default(false).describe("true: whole numbers only."),
});

const search = z.strictObject({
  how: z
    .enum(["grid", "random", "bayesian"])
    .default("random")
    .describe(
      "grid: all combinations. random: combinations drawn at random. bayesian: each next one where a model of the scores so far expects the most.",
    ),
  trials: z.int().min(1).max(1000).default(20).describe("Maximum number of combinations."),
  seed: z.int().min(0).default(1),
  metric: z
    .enum(METRIC_NAMES)
    .optional()
    .describe(
      "The metric for ranking combinations over the folds. Log loss for classes and RMSE for numbers if omitted.",
    ),
  most_minutes: z
    .number()
    .gt(0)
    .optional()
    .describe("No more combinations are started after this many minutes."),
  stop_after: z.int().min(1).optional().describe("Ends after this many combinations without improvement."),
  try: z.array(range).min(1),
});
export type SearchFile = z.infer<typeof search>;
export type RangeFile = z.infer<typeof range>;

const candidateCommon = {
  name: z.string().min(1),
  note: z.string().optional().describe("Why this candidate is tried."),
  search: search.optional().describe("Search space over settings of the algorithm and of steps."),
  engine: z
    .enum(["auto", "warehouse", "streaming"])
    .default("auto")
    .describe(
      "warehouse: rows stay in the warehouse, only aggregates are read. streaming: rows stream to the worker once. auto: chosen by algorithm and number of rows.",
    ),
};
const candidates = ALGORITHM_NAMES.map((algorithm) =>
  z.strictObject({
    ...candidateCommon,
    algorithm: z.literal(algorithm),
    settings: (ALGORITHMS[algorithm].settings as z.ZodObject).prefault({}),
  }),
);
type CandidateOf<Name extends Algorithm> = {
  [Each in Name]: z.infer<z.ZodObject<typeof candidateCommon>> & {
    algorithm: Each;
    settings: z.infer<(typeof ALGORITHMS)[Each]["settings"]>;
  };
}[Name];
export const candidateSchema = z.discriminatedUnion(
  "algorithm",
  candidates as unknown as [
    z.ZodObject<typeof candidateCommon & { algorithm: z.ZodType<Algorithm>; settings: z.ZodType }>,
  ],
) as unknown as z.ZodType<CandidateOf<Algorithm>>;

const check = z.strictObject({
  name: z.string().min(1),
  expect: expressionText.describe("Condition that all rows must meet at the end of the strand."),
  otherwise: z.enum(["warn", "stop"]).default("stop"),
});

/** A pipeline file, format 1. */
export const pipelineSchema = z.strictObject({
  ravlen: z.literal(FORMAT).describe("Number of the file format."),
  name: z
    .string()
    .regex(/^[\p{L}\p{N}][\p{L}\p{N}_-]{0,62}$/u, "letters, digits, - and _ only, at most 63")
    .describe("Short name, used on the command line."),
  description: z.string().optional(),
  brief: brief.optional(),
  strands: z.array(strand).min(1),
  roles,
  rows,
  holdout: holdoutSchema.prefault({}),
  folds: foldsSchema
    .optional()
    .describe(
      "Cross-validation: parts of the training rows, each evaluated by a model trained on the others.",
    ),
  candidates: z
    .array(candidateSchema)
    .min(1)
    .optional()
    .describe("Algorithms to train, the first by default. Boosted trees and the base rate if omitted."),
  checks: z.array(check).default([]),
  delivery: z.array(deliverySchema).default([]),
  functions: functionsSchema
    .optional()
    .describe(
      "If present, the version in service is also published as warehouse functions: for one row, and for all rows to score.",
    ),
  retraining: retrainingSchema
    .optional()
    .describe("Whether versions trained by a schedule are put in service automatically."),
  schedules: z.array(scheduleSchema).default([]),
});

/** A pipeline file as it was written, with standard settings filled in. */
export type PipelineSource = z.infer<typeof pipelineSchema>;
export type TargetKind = PipelineSource["roles"]["target"]["kind"];
/** The same with everything said that may be left out (`defaults`). */
export type PipelineFile = Omit<PipelineSource, "rows" | "candidates"> & {
  readonly rows: { readonly from: string; readonly train: string; readonly score: string };
  readonly candidates: NonNullable<PipelineSource["candidates"]>;
};
export type StrandFile = PipelineFile["strands"][number];
export type Candidate = PipelineFile["candidates"][number];

/** The JSON Schema of the file, for editors. */
export function pipelineJsonSchema(): unknown {
  return z.toJSONSchema(pipelineSchema, { io: "input", target: "draft-7" });
}
