import { z } from "zod";
import { METRIC_NAMES } from "../evaluate/metrics";
import { expressionText } from "../steps/step";

/** Bounds that rows to score have to keep. */
export const contractSchema = z.strictObject({
  otherwise: z
    .enum(["stop", "warn"])
    .default("stop")
    .describe(
      "What happens when rows to score break it. stop: nothing is delivered. warn: they are, and the run's log says so.",
    ),
  all_unseen: z
    .enum(["stop", "warn"])
    .default("stop")
    .describe(
      "What happens when training saw none of the values that a column has now, whatever otherwise says, unless most_unseen is 1: usually they are written in another way.",
    ),
  unanswered: z
    .enum(["stop", "leave_out"])
    .default("stop")
    .describe(
      "What happens when rows cannot be predicted because a number that the model needs is missing, such as those of a new entity without a past of its own. stop: nothing is delivered. leave_out: these rows are left out, and the run says how many they are.",
    ),
  least_rows: z.int().min(0).optional().describe("Fewer rows than these break it."),
  most_rows: z.int().min(1).optional().describe("More rows than these break it."),
  most_outside: z
    .number()
    .min(0)
    .max(1)
    .optional()
    .describe(
      "Largest share of rows with a number outside of what training saw, for every column. When left out, numbers may be anywhere.",
    ),
  most_missing_increase: z
    .number()
    .min(0)
    .max(1)
    .default(0.2)
    .describe("How much larger the share of missing values in a source column may be than in training."),
  most_drift: z
    .number()
    .gt(0)
    .optional()
    .describe(
      "Population stability index from which on somebody is told, for every column and for the predictions. When left out: 0.25, for the predictions alone, since seasons change columns without harm.",
    ),
  most_worse: z
    .number()
    .min(0)
    .default(0.1)
    .describe(
      "How much worse than the holdout promised past predictions may have turned out over four weeks, before somebody is told: in the metric's own unit, or for errors as a share of the promise.",
    ),
  most_unseen: z
    .number()
    .min(0)
    .max(1)
    .default(0.2)
    .describe("Largest share of rows with a category never seen in training."),
});

const route = z.strictObject({
  when: expressionText.describe(
    "Condition on what is delivered: key, prediction, probability and the further columns.",
  ),
  table: z.string().describe("Where rows go for which it is true, as schema.table."),
});

const handOver = z.union([
  z.strictObject({
    folder: z
      .string()
      .regex(/^[\p{L}\p{N}][\p{L}\p{N}_-]{0,62}$/u, "letters, digits, - and _ only, at most 63")
      .describe("A folder under drops/ of the installation; a file appears there when it is whole."),
    format: z.enum(["csv", "jsonl", "parquet"]).default("csv"),
  }),
  z.strictObject({
    webhook: z
      .url({ protocol: /^https?$/ })
      .describe("An address that is told of every landing, as JSON, until it answers well."),
  }),
]);

export const deliverySchema = z.strictObject({
  name: z.string().min(1),
  of: z
    .enum(["predictions", "features"])
    .default("predictions")
    .describe(
      "predictions: of the version in service. features: the prepared rows that train, judge or are to be scored, with the part each is in, for others to train on. What steps learn comes from the version in service where it was trained from the same file, else from today's training rows.",
    ),
  table: z
    .string()
    .describe(
      "The prediction table, as schema.table, in the warehouse's output schema. With routes: for rows that no route takes.",
    ),
  mode: z
    .enum(["append", "upsert", "replace", "partition"])
    .default("upsert")
    .describe(
      "append: every run adds rows. upsert: one row per key, the prediction of the latest logical time. replace: the table holds the newest run alone. partition: rows with the same value in one column are replaced, such as a day's.",
    ),
  partition: z
    .string()
    .optional()
    .describe("For mode: partition, the column, one of the key's or of the further columns."),
  rows: z
    .union([
      z.enum(["all", "not_yet_predicted"]),
      z.strictObject({
        newer_by: z.string().describe("A column that grows, one of the key's or of the further columns."),
      }),
    ])
    .default("all")
    .describe(
      "all: every row that qualifies. not_yet_predicted: rows whose key the tables do not hold yet. newer_by: rows with a larger value than any that has landed.",
    ),
  routes: z
    .array(route)
    .default([])
    .describe("Other tables for some of the rows; the first route that fits takes the row."),
  reasons: z
    .int()
    .min(0)
    .max(20)
    .default(0)
    .describe(
      "How many reasons to write beside each prediction, as JSON: the columns that weigh most, with their values and parts. The predictions are then made beside the warehouse, which takes longer.",
    ),
  hand_over: z
    .array(handOver)
    .default([])
    .describe("Where the rows of a run, or the news of them, go beside the tables."),
  columns: z
    .array(z.string())
    .default([])
    .describe("Further columns to write beside key, prediction and probability."),
  threshold: z
    .number()
    .min(0)
    .max(1)
    .default(0.5)
    .describe("From this probability on the prediction is positive."),
  contract: contractSchema.prefault({}),
});

export const functionsSchema = z.strictObject({
  grant_to: z
    .array(z.string().min(1))
    .default([])
    .describe("Roles of the warehouse that may ask the functions."),
});

export const scheduleSchema = z.strictObject({
  name: z.string().min(1),
  run: z.enum(["score", "train"]),
  delivery: z
    .string()
    .optional()
    .describe("Which delivery a scoring schedule serves. The first when left out."),
  cron: z.string().optional().describe("Five fields: minute, hour, day of month, month, day of week."),
  after: z
    .string()
    .optional()
    .describe(
      "Instead of cron: another pipeline. It runs when that one has delivered, for the same logical time.",
    ),
  after_backfill: z
    .boolean()
    .default(false)
    .describe("With after: what a backfill of the other pipeline delivers counts too."),
  arrival: z
    .string()
    .optional()
    .describe("Instead of cron: a table, as schema.table. It runs when rows have been written there."),
  quiet_for: z
    .int()
    .min(0)
    .max(1440)
    .default(1)
    .describe(
      "With arrival: minutes without a further change after which what has arrived is whole, so that a load in several parts is one arrival.",
    ),
  zone: z.string().default("UTC").describe("Time zone of the cron expression, such as Europe/Lisbon."),
  late_after: z
    .int()
    .min(1)
    .max(10_080)
    .default(30)
    .describe("Minutes after its time from which a run that is not done is late, and somebody is told."),
  at_once: z
    .int()
    .min(1)
    .max(50)
    .default(2)
    .describe(
      "How many runs of this schedule may wait or be under way at once. With cron, a time that finds as many is left out, and counted; with arrival, it waits until there is room.",
    ),
  wait: z
    .strictObject({
      for: z
        .array(
          z.strictObject({
            table: z.string().describe("A source, as schema.table."),
            column: z.string().describe("Its column of times; the newest value counts."),
            within: z.int().min(0).describe("Minutes that the newest value may lie before the run's time."),
          }),
        )
        .min(1),
      until: z
        .int()
        .min(1)
        .max(10_080)
        .describe("Minutes after its time until which the run waits. Then it fails, and somebody is told."),
    })
    .optional()
    .describe("Sources that have to be fresh before the run begins."),
  missed: z
    .enum(["skip", "catch_up_once"])
    .default("catch_up_once")
    .describe("When the server was down at the time: skip it, or run once afterwards."),
});

export const retrainingSchema = z.strictObject({
  rule: z
    .enum(["never", "when_better", "always"])
    .default("never")
    .describe(
      "never: a person decides. when_better: the new version has to be better on rows that neither has learned from. always: the newest serves.",
    ),
  metric: z
    .enum(METRIC_NAMES)
    .optional()
    .describe("What they are held against each other by; that of the brief when left out."),
  margin: z.number().min(0).default(0).describe("For when_better: by how much the metric has to be better."),
});

export type Delivery = z.infer<typeof deliverySchema>;
export type DeliveryMode = Delivery["mode"];
export type Schedule = z.infer<typeof scheduleSchema>;
export type Retraining = z.infer<typeof retrainingSchema>;
