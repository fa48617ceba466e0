import { z } from "zod";
import { METRIC_NAMES } from "../evaluate/metrics";
import { ALGORITHM_NAMES, ALGORITHMS, type Algorithm } from "../learn/algorithms";
import { STEP_KINDS } from "../steps";
import { expressionText } from "../steps/step";

/** The format this version writes. Older formats are migrated when read. */
export const FORMAT = 1;

const scalar = z.union([z.string(), z.number(), z.boolean()]);

const brief = z.strictObject({
  question: z.string().optional().describe("What shall be predicted, as a question a colleague would ask."),
  row: z.string().optional().describe("What one row is."),
  moment: z.strictObject({
    when: z.string().describe("When the prediction is made, in words."),
    column: z.string().optional().describe("The column that holds that moment."),
  }).optional(),
  users: z.string().optional().describe("Who uses the predictions, and for what."),
  expectations: z.array(z.union([
    z.string(),
    z.strictObject({ expect: z.string().min(1), found: z.string().optional().describe("What the data said, written later."), held: z.enum(["yes", "partly", "no"]).optional() }),
  ])).optional().describe("What you expect the data to say, written before looking; and later, what it said."),
  success: z.strictObject({
    metric: z.enum(METRIC_NAMES),
    at_least: z.number().optional(),
    at_most: z.number().optional(),
  }).optional().describe("The metric and the level that count as success."),
});

const kinds = STEP_KINDS.map((each) => each.settings);
const step = z.discriminatedUnion("do", kinds as [z.ZodObject, ...z.ZodObject[]]);

const strand = z.strictObject({
  name: z.string().min(1).max(60),
  note: z.string().optional(),
  from: z.union([
    z.string().describe('A warehouse table, as schema.table. Parts with dots or quotes go in double quotes.'),
    z.strictObject({ schema: z.string().min(1), table: z.string().min(1) }),
    z.strictObject({ strand: z.string().min(1) }).describe("Another strand."),
  ]),
  steps: z.array(step).default([]),
});

const roles = z.strictObject({
  key: z.array(z.string()).min(1).describe("Columns that name one row. Must be unique and never missing."),
  target: z.strictObject({
    column: z.string(),
    kind: z.enum(["binary", "number", "classes"]),
    positive: scalar.optional().describe("For binary targets that are not yes/no: the value that counts as positive."),
  }),
  time: z.string().optional().describe("The column that orders rows in time."),
  group: z.string().optional().describe("Rows with the same value here belong together."),
  weight: z.string().optional().describe("A column of row weights."),
  exclude: z.array(z.strictObject({ column: z.string(), because: z.string() })).default([]).describe("Columns that are no features, each with its reason."),
  known: z.record(z.string(), z.enum(["before", "at", "after"])).default({}).describe("When a column becomes known, seen from the moment of prediction."),
});

const rows = z.strictObject({
  from: z.string().describe("The strand that ends in the rows to train on and to score."),
  train: expressionText.describe("Condition for rows whose answer is known."),
  score: expressionText.describe("Condition for rows that want a prediction."),
});

const seed = z.union([z.int(), z.string()]);

const holdout = z.strictObject({
  share: z.number().gt(0).lt(1).default(0.2).describe("Share of rows (or groups) kept for judging."),
  seed: seed.default(1),
  by: z.enum(["key", "stratified", "group", "time"]).default("key").describe('key: by a hash of the key. stratified: the same, with the same share of every class. group: whole groups. time: rows at or after "from".'),
  from: z.string().optional().describe("For by: time, the first moment of the holdout, such as 2026-05-01."),
  blind: z.strictObject({
    share: z.number().gt(0).lt(1).optional().describe("Share of rows (or groups) of the blind part, beside the holdout."),
    from: z.string().optional().describe("For by: time, the first moment of the blind part; later than that of the holdout."),
  }).optional().describe("A last part that nothing is trained or judged on until it is opened, once and on record."),
});

const folds = z.strictObject({
  count: z.int().min(2).max(50),
  by: z.enum(["key", "stratified", "group", "time"]).default("key").describe("key: by a hash. stratified: the same share of every class in each. group: whole groups. time: each fold is judged by what was learned from the time before it."),
  seed: seed.default(1),
});

const range = z.strictObject({
  step: z.string().optional().describe("Name of a step whose setting is tried; the learner's own settings when left out."),
  setting: z.string().min(1).describe("The setting, such as ridge."),
  values: z.array(z.union([scalar, z.array(z.number())])).min(1).optional().describe("Values to try."),
  from: z.number().optional().describe("Smallest value, when a range is tried instead of values."),
  to: z.number().optional().describe("Largest value."),
  scale: z.enum(["linear", "log"]).default("linear").describe("log: as many values between 0.01 and 0.1 as between 0.1 and 1."),
  whole: z.boolean().default(false).describe("true: whole numbers only."),
});

const search = z.strictObject({
  how: z.enum(["grid", "random", "bayesian"]).default("random").describe("grid: every combination. random: combinations drawn at random. bayesian: each next one where a model of the scores so far expects the most."),
  trials: z.int().min(1).max(1000).default(20).describe("Most combinations tried."),
  seed: z.int().min(0).default(1),
  metric: z.enum(METRIC_NAMES).optional().describe("What combinations are ranked by, over the folds. The log loss for classes and the RMSE for numbers when left out."),
  most_minutes: z.number().gt(0).optional().describe("No further combination is begun after so many minutes."),
  stop_after: z.int().min(1).optional().describe("Ends when so many combinations in a row were no better than the best."),
  try: z.array(range).min(1),
});
export type SearchFile = z.infer<typeof search>;
export type RangeFile = z.infer<typeof range>;

const candidateCommon = {
  name: z.string().min(1),
  note: z.string().optional().describe("Why this one is tried."),
  search: search.optional().describe("Values to try for settings of the learner and of steps."),
  engine: z.enum(["auto", "warehouse", "streaming"]).default("auto").describe("warehouse: rows stay where they are, only sums come out. streaming: rows stream to the worker once. auto: what suits the learner and the number of rows."),
};
const candidates = ALGORITHM_NAMES.map((algorithm) => z.strictObject({ ...candidateCommon, algorithm: z.literal(algorithm), settings: (ALGORITHMS[algorithm].settings as z.ZodObject).prefault({}) }));
type CandidateOf<Name extends Algorithm> = { [Each in Name]: z.infer<z.ZodObject<typeof candidateCommon>> & { algorithm: Each; settings: z.infer<(typeof ALGORITHMS)[Each]["settings"]> } }[Name];
export const candidateSchema = z.discriminatedUnion("algorithm", candidates as unknown as [z.ZodObject<typeof candidateCommon & { algorithm: z.ZodType<Algorithm>; settings: z.ZodType }>]) as unknown as z.ZodType<CandidateOf<Algorithm>>;

/** Bounds that rows to score have to keep. */
export const contractSchema = z.strictObject({
  otherwise: z.enum(["stop", "warn"]).default("stop").describe("What happens when rows to score break it. stop: nothing is delivered. warn: they are, and the run's log says so."),
  least_rows: z.int().min(0).optional().describe("Fewer rows to score than these break it."),
  most_rows: z.int().min(1).optional().describe("More rows to score than these break it."),
  most_outside: z.number().min(0).max(1).optional().describe("Largest share of rows with a number outside of what training saw, for every column. When left out, numbers may be anywhere."),
  most_missing_increase: z.number().min(0).max(1).default(0.2).describe("How much larger the share of missing values in a source column may be than in training."),
  most_drift: z.number().gt(0).optional().describe("Population stability index from which on somebody is told, for every column and for the predictions. When left out: 0.25, for the predictions alone, since seasons change columns without harm."),
  most_worse: z.number().min(0).default(0.1).describe("How much worse than the holdout promised past predictions may have turned out over four weeks, before somebody is told: in the metric's own unit, or for errors as a share of the promise."),
  most_unseen: z.number().min(0).max(1).default(0.2).describe("Largest share of rows with a category never seen in training."),
});

const route = z.strictObject({
  when: expressionText.describe("Condition on what is delivered: key, prediction, probability and the further columns."),
  table: z.string().describe("Where rows go for which it is true, as schema.table."),
});

const handOver = z.union([
  z.strictObject({ folder: z.string().regex(/^[\p{L}\p{N}][\p{L}\p{N}_-]{0,62}$/u, "letters, digits, - and _ only, at most 63").describe("A folder under drops/ of the installation; a file appears there when it is whole."), format: z.enum(["csv", "jsonl", "parquet"]).default("csv") }),
  z.strictObject({ webhook: z.url({ protocol: /^https?$/ }).describe("An address that is told of every landing, as JSON, until it answers well.") }),
]);

export const deliverySchema = z.strictObject({
  name: z.string().min(1),
  table: z.string().describe("The prediction table, as schema.table, in the warehouse's output schema. With routes: for rows that no route takes."),
  mode: z.enum(["append", "upsert", "replace", "partition"]).default("upsert").describe("append: every run adds rows. upsert: one row per key, the prediction of the latest logical time. replace: the table holds the newest run alone. partition: rows with the same value in one column are replaced, such as a day's."),
  partition: z.string().optional().describe("For mode: partition, the column, one of the key's or of the further columns."),
  rows: z.union([
    z.enum(["all", "not_yet_predicted"]),
    z.strictObject({ newer_by: z.string().describe("A column that grows, one of the key's or of the further columns.") }),
  ]).default("all").describe("all: every row that qualifies. not_yet_predicted: rows whose key the tables do not hold yet. newer_by: rows with a larger value than any that has landed."),
  routes: z.array(route).default([]).describe("Other tables for some of the rows; the first route that fits takes the row."),
  reasons: z.int().min(0).max(20).default(0).describe("How many reasons to write beside each prediction, as JSON: the columns that weigh most, with their values and parts. The predictions are then made beside the warehouse, which takes longer."),
  hand_over: z.array(handOver).default([]).describe("Where the rows of a run, or the news of them, go beside the tables."),
  columns: z.array(z.string()).default([]).describe("Further columns to write beside key, prediction and probability."),
  threshold: z.number().min(0).max(1).default(0.5).describe("From this probability on the prediction is positive."),
  contract: contractSchema.prefault({}),
});

const functions = z.strictObject({
  grant_to: z.array(z.string().min(1)).default([]).describe("Roles of the warehouse that may ask the functions."),
});

export const scheduleSchema = z.strictObject({
  name: z.string().min(1),
  run: z.enum(["score", "train"]),
  delivery: z.string().optional().describe("Which delivery a scoring schedule serves. The first when left out."),
  cron: z.string().optional().describe("Five fields: minute, hour, day of month, month, day of week."),
  after: z.string().optional().describe("Instead of cron: another pipeline. It runs when that one has delivered, for the same logical time."),
  arrival: z.string().optional().describe("Instead of cron: a table, as schema.table. It runs when rows have been written there."),
  zone: z.string().default("UTC").describe("Time zone of the cron expression, such as Europe/Lisbon."),
  late_after: z.int().min(1).max(10_080).default(30).describe("Minutes after its time from which a run that is not done is late, and somebody is told."),
  at_once: z.int().min(1).max(50).default(2).describe("With cron: how many runs of this schedule may wait or be under way at once. A time that finds as many is left out, and counted."),
  wait: z.strictObject({
    for: z.array(z.strictObject({
      table: z.string().describe("A source, as schema.table."),
      column: z.string().describe("Its column of times; the newest value counts."),
      within: z.int().min(0).describe("Minutes that the newest value may lie before the run's time."),
    })).min(1),
    until: z.int().min(1).max(10_080).describe("Minutes after its time until which the run waits. Then it fails, and somebody is told."),
  }).optional().describe("Sources that have to be fresh before the run begins."),
  missed: z.enum(["skip", "catch_up_once"]).default("catch_up_once").describe("When the server was down at the time: skip it, or run once afterwards."),
});

const retraining = z.strictObject({
  rule: z.enum(["never", "when_better", "always"]).default("never").describe("never: a person decides. when_better: the new version has to be better on rows that neither has learned from. always: the newest serves."),
  metric: z.enum(METRIC_NAMES).optional().describe("What they are held against each other by; that of the brief when left out."),
  margin: z.number().min(0).default(0).describe("For when_better: by how much the metric has to be better."),
});

const check = z.strictObject({
  name: z.string().min(1),
  expect: expressionText.describe("Condition that every row must meet at the end of the strand."),
  otherwise: z.enum(["warn", "stop"]).default("stop"),
});

/** A pipeline file, format 1. */
export const pipelineSchema = z.strictObject({
  ravlen: z.literal(FORMAT).describe("Number of the file format."),
  name: z.string().regex(/^[\p{L}\p{N}][\p{L}\p{N}_-]{0,62}$/u, "letters, digits, - and _ only, at most 63").describe("Short name, used on the command line."),
  description: z.string().optional(),
  brief: brief.optional(),
  strands: z.array(strand).min(1),
  roles,
  rows,
  holdout: holdout.prefault({}),
  folds: folds.optional().describe("Parts of the training rows, each of which is judged by what was learned from the others."),
  candidates: z.array(candidateSchema).min(1),
  checks: z.array(check).default([]),
  delivery: z.array(deliverySchema).default([]),
  functions: functions.optional().describe("When it is there, the version in service is also published as functions of the warehouse: for one row, and for all rows that qualify."),
  retraining: retraining.optional().describe("Whether versions that a schedule trained go into service by themselves."),
  schedules: z.array(scheduleSchema).default([]),
});

export type PipelineFile = z.infer<typeof pipelineSchema>;
export type StrandFile = PipelineFile["strands"][number];
export type Candidate = PipelineFile["candidates"][number];
export type Delivery = PipelineFile["delivery"][number];
export type Schedule = PipelineFile["schedules"][number];
export type Retraining = NonNullable<PipelineFile["retraining"]>;
export type DeliveryMode = Delivery["mode"];

/** The JSON Schema of the file, for editors. */
export function pipelineJsonSchema(): unknown {
  return z.toJSONSchema(pipelineSchema, { io: "input", target: "draft-7" });
}
