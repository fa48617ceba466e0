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
  question: z.string().optional().describe("What shall be predicted, as a question a colleague would ask."),
  row: z.string().optional().describe("What one row is."),
  moment: z
    .strictObject({
      when: z.string().describe("When the prediction is made, in words."),
      column: z.string().optional().describe("The column that holds that moment."),
    })
    .optional(),
  users: z.string().optional().describe("Who uses the predictions, and for what."),
  expectations: z
    .array(
      z.union([
        z.string(),
        z.strictObject({
          expect: z.string().min(1),
          found: z.string().optional().describe("What the data said, written later."),
          held: z.enum(["yes", "partly", "no"]).optional(),
        }),
      ]),
    )
    .optional()
    .describe("What you expect the data to say, written before looking; and later, what it said."),
  success: z
    .strictObject({
      metric: z.enum(METRIC_NAMES),
      at_least: z.number().optional(),
      at_most: z.number().optional(),
    })
    .optional()
    .describe("The metric and the level that count as success."),
});

const kinds = STEP_KINDS.map((each) => each.settings);
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
  key: z.array(z.string()).min(1).describe("Columns that name one row. Must be unique and never missing."),
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
        "For binary targets that are not yes/no: the value that counts as negative, or a list of them; rows with any other answer are left out. Every other value when left out.",
      ),
  }),
  time: z.string().optional().describe("The column that orders rows in time."),
  group: z.string().optional().describe("Rows with the same value here belong together."),
  weight: z.string().optional().describe("A column of row weights."),
  exclude: z
    .array(z.strictObject({ column: z.string(), because: z.string() }))
    .default([])
    .describe("Columns that are no features, each with its reason."),
  known: z
    .record(z.string(), z.enum(["before", "at", "after"]))
    .default({})
    .describe("When a column becomes known, seen from the moment of prediction."),
});

const rows = z.strictObject({
  from: z.string().describe("The strand that ends in the rows to train on and to score."),
  train: expressionText
    .optional()
    .describe("Condition for rows to train on. Rows that have an answer when left out."),
  score: expressionText
    .optional()
    .describe("Condition for rows that want a prediction. Rows without an answer when left out."),
});

const range = z.strictObject({
  step: z
    .string()
    .optional()
    .describe("Name of a step whose setting is tried; the learner's own settings when left out."),
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
      "grid: every combination. random: combinations drawn at random. bayesian: each next one where a model of the scores so far expects the most.",
    ),
  trials: z.int().min(1).max(1000).default(20).describe("Most combinations tried."),
  seed: z.int().min(0).default(1),
  metric: z
    .enum(METRIC_NAMES)
    .optional()
    .describe(
      "What combinations are ranked by, over the folds. The log loss for classes and the RMSE for numbers when left out.",
    ),
  most_minutes: z
    .number()
    .gt(0)
    .optional()
    .describe("No further combination is begun after so many minutes."),
  stop_after: z
    .int()
    .min(1)
    .optional()
    .describe("Ends when so many combinations in a row were no better than the best."),
  try: z.array(range).min(1),
});
export type SearchFile = z.infer<typeof search>;
export type RangeFile = z.infer<typeof range>;

const candidateCommon = {
  name: z.string().min(1),
  note: z.string().optional().describe("Why this one is tried."),
  search: search.optional().describe("Values to try for settings of the learner and of steps."),
  engine: z
    .enum(["auto", "warehouse", "streaming"])
    .default("auto")
    .describe(
      "warehouse: rows stay where they are, only sums come out. streaming: rows stream to the worker once. auto: what suits the learner and the number of rows.",
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
  expect: expressionText.describe("Condition that every row must meet at the end of the strand."),
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
    .describe("Parts of the training rows, each of which is judged by what was learned from the others."),
  candidates: z
    .array(candidateSchema)
    .min(1)
    .optional()
    .describe(
      "Learners that are tried, the first of them when nothing else is said. Boosted trees and the base rate when left out.",
    ),
  checks: z.array(check).default([]),
  delivery: z.array(deliverySchema).default([]),
  functions: functionsSchema
    .optional()
    .describe(
      "When it is there, the version in service is also published as functions of the warehouse: for one row, and for all rows that qualify.",
    ),
  retraining: retrainingSchema
    .optional()
    .describe("Whether versions that a schedule trained go into service by themselves."),
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
