import {
  boolean,
  doublePrecision,
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
import type { Figures } from "@/core/evaluate/metrics";
import type { Choice } from "@/core/learn/search/space";
import type { OnDemand } from "@/core/plan/on-demand";
import type { Workload } from "@/core/plan/workload";
import type { Problem } from "@/core/problem";
import { created, moment } from "./columns";
import { pipelines, pipelineVersions } from "./pipelines";

export type RunKind = "train" | "score";
export type RunState = "queued" | "running" | "done" | "failed" | "cancelled";
export type RunCause = "hand" | "schedule" | "command line" | "again" | "backfill";

export const runs = pgTable(
  "runs",
  {
    id: uuid("id").primaryKey().defaultRandom(),
    kind: text("kind").$type<RunKind>().notNull(),
    pipelineId: integer("pipeline_id")
      .notNull()
      .references(() => pipelines.id),
    pipelineVersionId: integer("pipeline_version_id")
      .notNull()
      .references(() => pipelineVersions.id),
    /** What else the run was told: candidate, delivery. */
    options: jsonb("options").$type<RunOptions>().notNull().default({}),
    state: text("state").$type<RunState>().notNull().default("queued"),
    cause: text("cause").$type<RunCause>().notNull(),
    /** The logical time: what run_time() means in this run. */
    runTime: moment("run_time").notNull(),
    /** Schedule and time slot, so that one slot runs once. */
    slot: text("slot").unique(),
    attempt: integer("attempt").notNull().default(0),
    /** Before this moment nobody takes it up: it waits for a source, or for what can pass by itself. */
    notBefore: moment("not_before"),
    /** What it waits for, in words. */
    waitsFor: text("waits_for"),
    /** Attempts that had been made when a person asked to go on with it. */
    retriedAt: integer("retried_at_attempt").notNull().default(0),
    backfillId: integer("backfill_id"),
    /** The worker that holds the run, and when it last said so. */
    worker: text("worker"),
    heartbeatAt: moment("heartbeat_at"),
    /** How far the step that is being done has come, where that is counted. */
    progress: jsonb("progress").$type<RunProgress>(),
    /** When anything last moved, as the worker says. */
    movedAt: moment("moved_at"),
    /** How much it has to do, estimated before it begins. */
    workload: jsonb("workload").$type<Workload>(),
    /** Bytes of the workers' memory that it has taken for itself. */
    reservedBytes: doublePrecision("reserved_bytes"),
    cancelAsked: boolean("cancel_asked").notNull().default(false),
    problems: jsonb("problems").$type<readonly Problem[]>().notNull().default([]),
    rows: doublePrecision("rows"),
    /** One line on what came out. */
    outcome: text("outcome"),
    modelId: integer("model_id"),
    /** How predictions of rows on demand turned out, where these had their answers. */
    answers: jsonb("answers").$type<AnsweredRows>(),
    createdAt: created(),
    startedAt: moment("started_at"),
    finishedAt: moment("finished_at"),
  },
  (table) => [
    index("runs_newest").on(table.createdAt),
    index("runs_of_backfill").on(table.backfillId),
    index("runs_of_pipeline").on(table.pipelineId, table.createdAt),
  ],
);

/** How far something has come. */
export interface RunProgress {
  /** What is counted, such as "rows scored". */
  readonly what: string;
  readonly done: number;
  readonly of: number;
}

/** Rows on demand whose answers are known. */
export interface AnsweredRows {
  readonly answered: number;
  /** Right predictions among them, where they can be right or wrong. */
  readonly correct?: number;
  readonly figures: Figures;
}

export interface RunOptions {
  readonly candidate?: string;
  readonly delivery?: string;
  /** Features that this trial does without. */
  readonly without?: readonly string[];
  /** Share of the training rows that is learned from; all when left out. */
  readonly share?: number;
  /** A version that scores in place of the one in service. */
  readonly model?: number;
  /** Rows of a table that are scored once, into a table of their own. */
  readonly onDemand?: OnDemand;
  /** Sources that it waits for, and until when on the application's clock. */
  readonly wait?: RunWait;
}

export interface RunWait {
  readonly for: readonly { readonly table: string; readonly column: string; readonly within: number }[];
  readonly until: string;
}

export const runSteps = pgTable(
  "run_steps",
  {
    id: serial("id").primaryKey(),
    runId: uuid("run_id")
      .notNull()
      .references(() => runs.id),
    position: integer("position").notNull(),
    attempt: integer("attempt").notNull(),
    name: text("name").notNull(),
    state: text("state").$type<"running" | "done" | "failed" | "cancelled">().notNull(),
    rows: doublePrecision("rows"),
    detail: text("detail"),
    startedAt: moment("started_at").notNull().defaultNow(),
    finishedAt: moment("finished_at"),
  },
  (table) => [index("steps_of_run").on(table.runId, table.position)],
);

export const runStatements = pgTable(
  "run_statements",
  {
    id: serial("id").primaryKey(),
    runId: uuid("run_id")
      .notNull()
      .references(() => runs.id),
    stepId: integer("step_id")
      .notNull()
      .references(() => runSteps.id),
    purpose: text("purpose").notNull(),
    sql: text("sql").notNull(),
    milliseconds: doublePrecision("milliseconds").notNull(),
    rows: doublePrecision("rows"),
  },
  (table) => [index("statements_of_run").on(table.runId)],
);

export const runLog = pgTable(
  "run_log",
  {
    id: serial("id").primaryKey(),
    runId: uuid("run_id")
      .notNull()
      .references(() => runs.id),
    at: moment("at").notNull().defaultNow(),
    level: text("level").$type<"info" | "warning" | "error">().notNull(),
    message: text("message").notNull(),
  },
  (table) => [index("log_of_run").on(table.runId)],
);

/** Loss per pass, tree or epoch, written while training runs. */
export const runPasses = pgTable(
  "run_passes",
  {
    id: serial("id").primaryKey(),
    runId: uuid("run_id")
      .notNull()
      .references(() => runs.id),
    attempt: integer("attempt").notNull(),
    pass: integer("pass").notNull(),
    scope: text("scope").$type<"all" | "sample" | "tree" | "epoch">().notNull(),
    loss: doublePrecision("loss").notNull(),
    /** Loss on rows kept apart. */
    validation: doublePrecision("validation"),
    gradientNorm: doublePrecision("gradient_norm"),
    step: doublePrecision("step"),
  },
  (table) => [index("passes_of_run").on(table.runId)],
);

/** Settings that a search tries, with what came out; a run that is taken up again does not try them anew. */
export const searchTrials = pgTable(
  "search_trials",
  {
    id: serial("id").primaryKey(),
    runId: uuid("run_id")
      .notNull()
      .references(() => runs.id),
    /** From 0, in the order of the search. */
    number: integer("number").notNull(),
    choices: jsonb("choices").$type<readonly Choice[]>().notNull(),
    /** Figures of each fold; empty when it failed. */
    folds: jsonb("folds").$type<readonly Figures[]>().notNull(),
    /** Mean of the search's metric over the folds. */
    score: doublePrecision("score"),
    problem: text("problem"),
    seconds: doublePrecision("seconds").notNull(),
    at: moment("at").notNull().defaultNow(),
  },
  (table) => [uniqueIndex("trial_of_search").on(table.runId, table.number)],
);

/** Scratch tables of runs in the warehouse that are complete: a later attempt of the run goes on from them. */
export const scratchSeals = pgTable(
  "scratch_seals",
  {
    runId: uuid("run_id")
      .notNull()
      .references(() => runs.id),
    /** The table's name in the scratch schema. */
    table: text("table_name").notNull(),
    purpose: text("purpose").notNull(),
    /** A hash of all that the rows were made from. */
    madeFrom: text("made_from").notNull(),
    rows: doublePrecision("rows").notNull(),
    sealedAt: moment("sealed_at").notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.runId, table.table] })],
);

/** What parts of a run have come to that takes long to find again; an attempt that goes on takes it from here. */
export const runResults = pgTable(
  "run_results",
  {
    runId: uuid("run_id")
      .notNull()
      .references(() => runs.id),
    name: text("name").notNull(),
    /** A hash of all it depends on: another one means another result. */
    madeFrom: text("made_from").notNull(),
    value: jsonb("value").$type<unknown>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.runId, table.name] })],
);
