import { sql } from "drizzle-orm";
import {
  boolean,
  date,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  serial,
  text,
  uniqueIndex,
  uuid,
} from "drizzle-orm/pg-core";
import type { Drift } from "@/core/evaluate/drift";
import type { Figures } from "@/core/evaluate/metrics";
import type { Problem } from "@/core/problem";
import { created, moment } from "./columns";
import { modelVersions } from "./models";
import { pipelines } from "./pipelines";
import { runs, type RunKind, type RunWait } from "./runs";

/** Who put which version in service when, or took it out. */
export const serviceChanges = pgTable("service_changes", {
  id: serial("id").primaryKey(),
  pipelineId: integer("pipeline_id")
    .notNull()
    .references(() => pipelines.id),
  modelId: integer("model_id").references(() => modelVersions.id),
  at: moment("at").notNull().defaultNow(),
  /** Who did it, as far as that is known, and why. */
  by: text("by"),
  reason: text("reason"),
});

/** How far the columns of a scoring run's rows were from training. */
export const runDrift = pgTable(
  "run_drift",
  {
    runId: uuid("run_id")
      .primaryKey()
      .references(() => runs.id),
    pipelineId: integer("pipeline_id")
      .notNull()
      .references(() => pipelines.id),
    modelId: integer("model_id")
      .notNull()
      .references(() => modelVersions.id),
    runTime: moment("run_time").notNull(),
    rows: integer("rows").notNull(),
    columns: jsonb("columns").$type<readonly Drift[]>().notNull(),
  },
  (table) => [index("drift_of_pipeline").on(table.pipelineId, table.runTime)],
);

export type AlertKind = "failed" | "contract" | "late" | "blocked" | "drift" | "worse" | "undecided";

/** What somebody should hear of: one row per matter, from when it came up until it cleared. */
export const alerts = pgTable(
  "alerts",
  {
    id: serial("id").primaryKey(),
    /** What the alert is about, such as the scoring for one delivery: at most one open alert for each. */
    matter: text("matter").notNull(),
    kind: text("kind").$type<AlertKind>().notNull(),
    pipelineId: integer("pipeline_id")
      .notNull()
      .references(() => pipelines.id),
    title: text("title").notNull(),
    problems: jsonb("problems").$type<readonly Problem[]>().notNull(),
    /** The run that it was last seen in. */
    runId: uuid("run_id").references(() => runs.id),
    /** The latest logical time for which it is so; what is done for an earlier one does not clear it. */
    runTime: moment("run_time"),
    openedAt: moment("opened_at").notNull().defaultNow(),
    lastAt: moment("last_at").notNull().defaultNow(),
    times: integer("times").notNull().default(1),
    acknowledgedAt: moment("acknowledged_at"),
    acknowledgedBy: text("acknowledged_by"),
    clearedAt: moment("cleared_at"),
    /** What made it clear. */
    clearedWith: text("cleared_with"),
  },
  (table) => [
    uniqueIndex("open_matter")
      .on(table.matter)
      .where(sql`${table.clearedAt} IS NULL`),
    index("alerts_by_time").on(table.openedAt),
  ],
);

export type MissedSetting = "skip" | "catch_up_once";

/** Sources that have to be fresh before a run begins, and for how many minutes it waits. */
export interface ScheduleWait extends Pick<RunWait, "for"> {
  readonly until: number;
}

/** Schedules of the newest pipeline version, with the last slot each has dealt with. */
/** What is known of a table for whose rows a schedule waits. */
export interface ArrivalWatch {
  /** Its counters of writes when it was last read. */
  readonly counters: string;
  /** What it held then, as everybody sees it. */
  readonly content: string;
  /** When that was found to have changed, on the application's clock. */
  readonly changedAt: string;
  /** When it was last read, and how long that took. */
  readonly readAt: string;
  readonly milliseconds: number;
}

export const schedules = pgTable(
  "schedules",
  {
    id: serial("id").primaryKey(),
    pipelineId: integer("pipeline_id")
      .notNull()
      .references(() => pipelines.id),
    name: text("name").notNull(),
    run: text("run").$type<RunKind>().notNull(),
    delivery: text("delivery"),
    /** One of these three says when it runs. */
    cron: text("cron"),
    after: text("after"),
    arrival: text("arrival"),
    /** Whether deliveries of backfills count for `after`. */
    afterBackfill: boolean("after_backfill").notNull().default(false),
    /** Minutes without a change after which what has arrived is whole. */
    quietFor: integer("quiet_for").notNull().default(1),
    /** Up to where `after` or `arrival` has looked. */
    seen: text("seen"),
    /** What the table of `arrival` was like when it was last looked at. */
    arriving: jsonb("arriving").$type<ArrivalWatch>(),
    zone: text("zone").notNull(),
    missed: text("missed").$type<MissedSetting>().notNull(),
    /** Minutes after its time when a run that is not done counts as late. */
    lateAfter: integer("late_after").notNull().default(30),
    /** How many of its runs may be under way at once; a time that finds as many is left out. */
    /** Times left out because of that, since it was set up. */
    leftOut: integer("left_out").notNull().default(0),
    wait: jsonb("wait").$type<ScheduleWait>(),
    atOnce: integer("at_once").notNull().default(2),
    paused: boolean("paused").notNull().default(false),
    /** Times up to here are dealt with. */
    doneUntil: moment("done_until").notNull(),
  },
  (table) => [uniqueIndex("schedule_name").on(table.pipelineId, table.name)],
);

export type BackfillState = "running" | "paused" | "done" | "stopped";

/** A range of logical times for which runs are caught up, as if each had happened then. */
export const backfills = pgTable("backfills", {
  id: serial("id").primaryKey(),
  pipelineId: integer("pipeline_id")
    .notNull()
    .references(() => pipelines.id),
  delivery: text("delivery").notNull(),
  /** The version that scores; null: whichever is in service when a run begins. */
  modelId: integer("model_id").references(() => modelVersions.id),
  cron: text("cron").notNull(),
  zone: text("zone").notNull(),
  from: moment("from_time").notNull(),
  until: moment("until_time").notNull(),
  total: integer("total").notNull(),
  /** How many runs may be under way at once. */
  parallel: integer("parallel").notNull(),
  /** Times up to here have their run. */
  doneUntil: moment("done_until").notNull(),
  state: text("state").$type<BackfillState>().notNull().default("running"),
  by: text("by"),
  createdAt: created(),
});

/** How predictions of one day by one version turned out, once the answers were there. */
export const truthDays = pgTable(
  "truth_days",
  {
    pipelineId: integer("pipeline_id")
      .notNull()
      .references(() => pipelines.id),
    delivery: text("delivery").notNull(),
    modelId: integer("model_id")
      .notNull()
      .references(() => modelVersions.id),
    /** Day of the run's logical time, UTC. */
    day: date("day").notNull(),
    /** Predictions of that day, and those whose answer has arrived. */
    predicted: integer("predicted").notNull(),
    answered: integer("answered").notNull(),
    figures: jsonb("figures").$type<Figures>().notNull(),
    /** Mean and variance of numeric answers; days of before have none. */
    answers: jsonb("answers").$type<{ readonly mean: number; readonly variance: number }>(),
    measuredAt: moment("measured_at").notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.pipelineId, table.delivery, table.modelId, table.day] })],
);

export type MessageKind = "webhook" | "mail" | "file";
export type MessageState = "waiting" | "sent" | "given up";

/** What somebody outside is to be told, or handed: kept until it has arrived. */
export const outbox = pgTable(
  "outbox",
  {
    id: serial("id").primaryKey(),
    kind: text("kind").$type<MessageKind>().notNull(),
    /** URL, address, or folder. */
    target: text("target").notNull(),
    subject: text("subject").notNull(),
    body: jsonb("body").$type<Readonly<Record<string, unknown>>>().notNull(),
    /** The same thing is sent once to each target, however often it comes up. */
    key: text("key").notNull(),
    runId: uuid("run_id").references(() => runs.id),
    state: text("state").$type<MessageState>().notNull().default("waiting"),
    attempts: integer("attempts").notNull().default(0),
    nextAt: moment("next_at").notNull().defaultNow(),
    problem: text("problem"),
    createdAt: created(),
    sentAt: moment("sent_at"),
  },
  (table) => [
    uniqueIndex("message_once").on(table.target, table.key),
    index("messages_waiting").on(table.state, table.nextAt),
  ],
);
