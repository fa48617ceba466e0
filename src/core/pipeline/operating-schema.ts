import { z } from "zod";
import { METRIC_NAMES } from "../evaluate/metrics";
import { expressionText } from "../steps/step";

/** Bounds that rows to score have to keep. */
export const contractSchema = z.strictObject({
  otherwise: z
    .enum(["stop", "warn"])
    .default("stop")
    .describe(
      "What happens when rows to score violate the contract. stop: nothing is delivered. warn: they are delivered, with a warning in the run's log.",
    ),
  all_unseen: z
    .enum(["stop", "warn"])
    .default("stop")
    .describe(
      "What happens when all values of a column are unseen, regardless of otherwise, unless most_unseen is 1. Usually the spelling has changed.",
    ),
  unanswered: z
    .enum(["stop", "leave_out"])
    .default("stop")
    .describe(
      "What happens when rows cannot be predicted because a number that the model needs is missing, such as those of a new entity without history. stop: nothing is delivered. leave_out: these rows are excluded and counted in the run.",
    ),
  least_rows: z.int().min(0).optional().describe("Minimum number of rows."),
  most_rows: z.int().min(1).optional().describe("Maximum number of rows."),
  most_outside: z
    .number()
    .min(0)
    .max(1)
    .optional()
    .describe(
      "Maximum share of rows outside the range seen in training, for every numeric column. No limit if omitted.",
    ),
  most_missing_increase: z
    .number()
    .min(0)
    .max(1)
    .default(0.2)
    .describe("Maximum increase of the share of missing values in a source column over training."),
  most_drift: z
    .number()
    .gt(0)
    .optional()
    .describe(
      "Population stability index from which an alert opens, for every column and for the predictions. If omitted: 0.25, for the predictions only, since inputs change with the seasons.",
    ),
  most_worse: z
    .number()
    .min(0)
    .default(0.1)
    .describe(
      "How much worse than on the holdout live metrics over four weeks may be before an alert opens: in the metric's unit, or for errors as a share of the holdout's value.",
    ),
  most_unseen: z
    .number()
    .min(0)
    .max(1)
    .default(0.2)
    .describe("Maximum share of rows with a category unseen in training."),
});

const route = z.strictObject({
  when: expressionText.describe(
    "Condition on what is delivered: key, prediction, probability and additional columns.",
  ),
  table: z.string().describe("Table for rows that meet the condition, as schema.table."),
});

const handOver = z.union([
  z.strictObject({
    folder: z
      .string()
      .regex(/^[\p{L}\p{N}][\p{L}\p{N}_-]{0,62}$/u, "letters, digits, - and _ only, at most 63")
      .describe("A folder under drops/ of the installation; a file appears there once it is complete."),
    format: z.enum(["csv", "jsonl", "parquet"]).default("csv"),
  }),
  z.strictObject({
    webhook: z
      .url({ protocol: /^https?$/ })
      .describe("An address that is notified of every landing, as JSON, until it responds with success."),
  }),
]);

export const deliverySchema = z.strictObject({
  name: z.string().min(1),
  of: z
    .enum(["predictions", "features"])
    .default("predictions")
    .describe(
      "predictions: of the version in service. features: the prepared rows for training, evaluation and scoring, with the part of each. Learned values come from the version in service if it was trained from the same file, else from today's training rows.",
    ),
  table: z
    .string()
    .describe(
      "The prediction table, as schema.table, in the warehouse's output schema. With routes: for rows that match no route.",
    ),
  mode: z
    .enum(["append", "upsert", "replace", "partition"])
    .default("upsert")
    .describe(
      "append: every run adds rows. upsert: one row per key, the prediction of the latest logical time. replace: replaced at each run. partition: rows with the same value in one column are replaced, such as a day's.",
    ),
  partition: z
    .string()
    .optional()
    .describe("For mode: partition, the column, from the key or the additional columns."),
  rows: z
    .union([
      z.enum(["all", "not_yet_predicted"]),
      z.strictObject({
        newer_by: z.string().describe("A column that grows, from the key or the additional columns."),
      }),
    ])
    .default("all")
    .describe(
      "all: all rows to score. not_yet_predicted: rows whose key the tables do not hold yet. newer_by: rows with a larger value than any that has landed.",
    ),
  routes: z
    .array(route)
    .default([])
    .describe("Other tables for some of the rows; the first matching route takes the row."),
  reasons: z
    .int()
    .min(0)
    .max(20)
    .default(0)
    .describe(
      "Number of reasons to write with each prediction, as JSON: the columns with the largest contributions, with values and contributions. Predictions are then made by the worker, which takes longer.",
    ),
  hand_over: z
    .array(handOver)
    .default([])
    .describe("Other systems that receive the rows of a run, or a notification."),
  columns: z.array(z.string()).default([]).describe("Additional columns to write."),
  threshold: z
    .number()
    .min(0)
    .max(1)
    .default(0.5)
    .describe("Predictions with at least this probability are positive."),
  contract: contractSchema.prefault({}),
});

export const functionsSchema = z.strictObject({
  grant_to: z.array(z.string().min(1)).default([]).describe("Warehouse roles that may call the functions."),
});

export const scheduleSchema = z.strictObject({
  name: z.string().min(1),
  run: z.enum(["score", "train"]),
  delivery: z.string().optional().describe("Which delivery a scoring schedule serves. The first if omitted."),
  cron: z.string().optional().describe("Five fields: minute, hour, day of month, month, day of week."),
  after: z
    .string()
    .optional()
    .describe("Instead of cron: another pipeline. Runs after it delivers, for the same logical time."),
  after_backfill: z
    .boolean()
    .default(false)
    .describe("With after: also run after backfills of the other pipeline."),
  arrival: z
    .string()
    .optional()
    .describe("Instead of cron: a table, as schema.table. Runs when rows were written to it."),
  quiet_for: z
    .int()
    .min(0)
    .max(1440)
    .default(1)
    .describe(
      "With arrival: minutes without another change after which a load counts as complete, so that a load in several parts is one arrival.",
    ),
  zone: z.string().default("UTC").describe("Time zone of the cron expression, such as Europe/Lisbon."),
  late_after: z
    .int()
    .min(1)
    .max(10_080)
    .default(30)
    .describe("Minutes after its scheduled time when an unfinished run is late and an alert opens."),
  at_once: z
    .int()
    .min(1)
    .max(50)
    .default(2)
    .describe(
      "Maximum number of runs of this schedule waiting or running at the same time. With cron, further times are skipped and counted; with arrival, they wait.",
    ),
  wait: z
    .strictObject({
      for: z
        .array(
          z.strictObject({
            table: z.string().describe("A source, as schema.table."),
            column: z.string().describe("Its time column; the newest value counts."),
            within: z.int().min(0).describe("Maximum age of the newest value at the run's time, in minutes."),
          }),
        )
        .min(1),
      until: z
        .int()
        .min(1)
        .max(10_080)
        .describe("Maximum minutes to wait. Then the run fails and an alert opens."),
    })
    .optional()
    .describe("Sources that must be fresh before the run starts."),
  missed: z
    .enum(["skip", "catch_up_once"])
    .default("catch_up_once")
    .describe("If the server was down at the time: skip it, or catch up with one run."),
});

export const retrainingSchema = z.strictObject({
  rule: z
    .enum(["never", "when_better", "always"])
    .default("never")
    .describe(
      "never: you decide. when_better: the new version must be better on rows that neither was trained on. always: the newest is put in service.",
    ),
  metric: z
    .enum(METRIC_NAMES)
    .optional()
    .describe("The metric for the comparison; that of the brief if omitted."),
  margin: z.number().min(0).default(0).describe("For when_better: the required improvement of the metric."),
});

export type Delivery = z.infer<typeof deliverySchema>;
export type DeliveryMode = Delivery["mode"];
export type Schedule = z.infer<typeof scheduleSchema>;
export type Retraining = z.infer<typeof retrainingSchema>;
