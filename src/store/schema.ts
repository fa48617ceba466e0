import { sql } from "drizzle-orm";
import { boolean, doublePrecision, index, integer, jsonb, pgTable, primaryKey, serial, text, timestamp, uniqueIndex, uuid } from "drizzle-orm/pg-core";
import type { Choices, FileLook, LookWishes, Misfit } from "@/core/files/look";
import type { TableProfile } from "@/core/evaluate/table-profile";
import type { Judgement } from "@/core/evaluate/judgement";
import type { ColumnSpread, Drift } from "@/core/evaluate/drift";
import type { Intervals } from "@/core/evaluate/bootstrap";
import type { Figures, MetricName } from "@/core/evaluate/metrics";
import type { Bucket } from "@/core/evaluate/threshold";
import type { Model } from "@/core/learn/model";
import type { Choice } from "@/core/learn/search/space";
import type { Engine } from "@/core/learn/task";
import type { LearnedValues } from "@/core/plan/build";
import type { RowProfile } from "@/core/plan/contract";
import type { FrameShape } from "@/core/plan/frame";
import type { SourceUse } from "@/core/plan/plan";
import type { Problem } from "@/core/problem";

const moment = (name: string) => timestamp(name, { withTimezone: true, mode: "date" });
const created = () => moment("created_at").notNull().defaultNow();

/** Settings of the whole installation: the demo clock, for one. */
export const settings = pgTable("settings", { key: text("key").primaryKey(), value: jsonb("value").notNull() });

/** The warehouse that pipelines work on. Logins are encrypted; see secrets.ts. */
export const warehouses = pgTable("warehouses", {
  id: serial("id").primaryKey(),
  name: text("name").notNull().unique(),
  reader: text("reader_encrypted").notNull(),
  writer: text("writer_encrypted").notNull(),
  outputSchema: text("output_schema").notNull(),
  scratchSchema: text("scratch_schema").notNull(),
  importSchema: text("import_schema").notNull().default("imported"),
});

export const pipelines = pgTable("pipelines", {
  id: serial("id").primaryKey(),
  name: text("name").notNull().unique(),
  description: text("description"),
  /** The version of the model that scheduled scoring uses. */
  inService: integer("in_service_model_id"),
  createdAt: created(),
});

export const pipelineVersions = pgTable("pipeline_versions", {
  id: serial("id").primaryKey(),
  pipelineId: integer("pipeline_id").notNull().references(() => pipelines.id),
  number: integer("number").notNull(),
  text: text("text").notNull(),
  note: text("note"),
  planHash: text("plan_hash").notNull(),
  createdAt: created(),
}, (table) => [uniqueIndex("pipeline_version_number").on(table.pipelineId, table.number)]);

/** The unsaved state of a pipeline's file: one for everybody, so that two people see each other's work. */
export const drafts = pgTable("drafts", {
  pipelineId: integer("pipeline_id").primaryKey().references(() => pipelines.id),
  text: text("text").notNull(),
  /** Number of the version it began from. */
  basedOn: integer("based_on").notNull(),
  /** Grows with every save, so that a later save by somebody else is noticed. */
  revision: integer("revision").notNull(),
  updatedAt: moment("updated_at").notNull(),
});

export type ImportState = "looking" | "looked" | "loading" | "done" | "failed" | "cancelled";

/** Files on their way into a table: what was found, what was decided, how far it is, what came out. */
export const imports = pgTable("imports", {
  id: uuid("id").primaryKey().defaultRandom(),
  name: text("name").notNull(),
  /** Where the file lies; uploads lie in a folder of the installation. */
  path: text("path").notNull(),
  bytes: doublePrecision("bytes").notNull(),
  state: text("state").$type<ImportState>().notNull().default("looking"),
  wishes: jsonb("wishes").$type<LookWishes>().notNull().default({}),
  look: jsonb("look").$type<FileLook>(),
  choices: jsonb("choices").$type<Choices>(),
  /** How far the present stage is. */
  doneBytes: doublePrecision("done_bytes").notNull().default(0),
  doneRows: doublePrecision("done_rows").notNull().default(0),
  rejected: doublePrecision("rejected").notNull().default(0),
  cancelAsked: boolean("cancel_asked").notNull().default(false),
  worker: text("worker"),
  heartbeatAt: moment("heartbeat_at"),
  problems: jsonb("problems").$type<readonly Problem[]>().notNull().default([]),
  /** The first rows that did not fit, when loading stopped at them or left them out. */
  misfits: jsonb("misfits").$type<readonly Misfit[]>().notNull().default([]),
  createdAt: created(),
  stageStartedAt: moment("stage_started_at"),
  finishedAt: moment("finished_at"),
}, (table) => [index("imports_newest").on(table.createdAt)]);

/** What we know of a warehouse table besides what it says itself: words of people, and what its rows were found to be. */
export const tableFacts = pgTable("table_facts", {
  schemaName: text("schema_name").notNull(),
  tableName: text("table_name").notNull(),
  description: text("description"),
  columnDescriptions: jsonb("column_descriptions").$type<Readonly<Record<string, string>>>().notNull().default({}),
  profile: jsonb("profile").$type<TableProfile>(),
  profiledAt: moment("profiled_at"),
  /** When a profile was last asked for: it is under way while this is the later of the two. */
  profileAskedAt: moment("profile_asked_at"),
  profileProblem: text("profile_problem"),
  /** Hours after which the profile is taken anew by itself; null: only on request. */
  refreshHours: integer("refresh_hours"),
}, (table) => [primaryKey({ columns: [table.schemaName, table.tableName] })]);

export type RunKind = "train" | "score";
export type RunState = "queued" | "running" | "done" | "failed" | "cancelled";
export type RunCause = "hand" | "schedule" | "command line" | "again";

export const runs = pgTable("runs", {
  id: uuid("id").primaryKey().defaultRandom(),
  kind: text("kind").$type<RunKind>().notNull(),
  pipelineId: integer("pipeline_id").notNull().references(() => pipelines.id),
  pipelineVersionId: integer("pipeline_version_id").notNull().references(() => pipelineVersions.id),
  /** What else the run was told: candidate, delivery. */
  options: jsonb("options").$type<RunOptions>().notNull().default({}),
  state: text("state").$type<RunState>().notNull().default("queued"),
  cause: text("cause").$type<RunCause>().notNull(),
  /** The logical time: what run_time() means in this run. */
  runTime: moment("run_time").notNull(),
  /** Schedule and time slot, so that one slot runs once. */
  slot: text("slot").unique(),
  attempt: integer("attempt").notNull().default(0),
  /** The worker that holds the run, and when it last said so. */
  worker: text("worker"),
  heartbeatAt: moment("heartbeat_at"),
  cancelAsked: boolean("cancel_asked").notNull().default(false),
  problems: jsonb("problems").$type<readonly Problem[]>().notNull().default([]),
  rows: doublePrecision("rows"),
  /** One line on what came out. */
  outcome: text("outcome"),
  modelId: integer("model_id"),
  createdAt: created(),
  startedAt: moment("started_at"),
  finishedAt: moment("finished_at"),
}, (table) => [index("runs_newest").on(table.createdAt), index("runs_of_pipeline").on(table.pipelineId, table.createdAt)]);

export interface RunOptions {
  readonly candidate?: string;
  readonly delivery?: string;
  /** Features that this trial does without. */
  readonly without?: readonly string[];
  /** Share of the training rows that is learned from; all when left out. */
  readonly share?: number;
}

export const runSteps = pgTable("run_steps", {
  id: serial("id").primaryKey(),
  runId: uuid("run_id").notNull().references(() => runs.id),
  position: integer("position").notNull(),
  attempt: integer("attempt").notNull(),
  name: text("name").notNull(),
  state: text("state").$type<"running" | "done" | "failed" | "cancelled">().notNull(),
  rows: doublePrecision("rows"),
  detail: text("detail"),
  startedAt: moment("started_at").notNull().defaultNow(),
  finishedAt: moment("finished_at"),
}, (table) => [index("steps_of_run").on(table.runId, table.position)]);

export const runStatements = pgTable("run_statements", {
  id: serial("id").primaryKey(),
  runId: uuid("run_id").notNull().references(() => runs.id),
  stepId: integer("step_id").notNull().references(() => runSteps.id),
  purpose: text("purpose").notNull(),
  sql: text("sql").notNull(),
  milliseconds: doublePrecision("milliseconds").notNull(),
  rows: doublePrecision("rows"),
}, (table) => [index("statements_of_run").on(table.runId)]);

export const runLog = pgTable("run_log", {
  id: serial("id").primaryKey(),
  runId: uuid("run_id").notNull().references(() => runs.id),
  at: moment("at").notNull().defaultNow(),
  level: text("level").$type<"info" | "warning" | "error">().notNull(),
  message: text("message").notNull(),
}, (table) => [index("log_of_run").on(table.runId)]);

/** Loss per pass, tree or epoch, written while training runs. */
export const runPasses = pgTable("run_passes", {
  id: serial("id").primaryKey(),
  runId: uuid("run_id").notNull().references(() => runs.id),
  attempt: integer("attempt").notNull(),
  pass: integer("pass").notNull(),
  scope: text("scope").$type<"all" | "sample" | "tree" | "epoch">().notNull(),
  loss: doublePrecision("loss").notNull(),
  /** Loss on rows kept apart. */
  validation: doublePrecision("validation"),
  gradientNorm: doublePrecision("gradient_norm"),
  step: doublePrecision("step"),
}, (table) => [index("passes_of_run").on(table.runId)]);

/** Settings that a search tries, with what came out; a run that is taken up again does not try them anew. */
export const searchTrials = pgTable("search_trials", {
  id: serial("id").primaryKey(),
  runId: uuid("run_id").notNull().references(() => runs.id),
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
}, (table) => [uniqueIndex("trial_of_search").on(table.runId, table.number)]);

/** What a training saw and made: everything scoring and judging need, as data. */
export const modelVersions = pgTable("model_versions", {
  id: serial("id").primaryKey(),
  pipelineId: integer("pipeline_id").notNull().references(() => pipelines.id),
  number: integer("number").notNull(),
  pipelineVersionId: integer("pipeline_version_id").notNull().references(() => pipelineVersions.id),
  runId: uuid("run_id").notNull().references(() => runs.id).unique(),
  candidate: text("candidate").notNull(),
  planHash: text("plan_hash").notNull(),
  codeVersion: text("code_version").notNull(),
  runTime: moment("run_time").notNull(),
  learned: jsonb("learned").$type<LearnedValues>().notNull(),
  shape: jsonb("shape").$type<FrameShape>().notNull(),
  model: jsonb("model").$type<Model>().notNull(),
  metrics: jsonb("metrics").$type<Figures>().notNull(),
  /** For yes and no: rows of each answer between neighbouring thresholds. */
  buckets: jsonb("buckets").$type<readonly Bucket[]>().notNull(),
  /** Null for versions that were judged before judgements were kept. */
  judgement: jsonb("judgement").$type<Judgement>(),
  engine: text("engine").$type<Engine>().notNull().default("warehouse"),
  /** Seconds that fitting took, preparation and judging not counted. */
  fitSeconds: doublePrecision("fit_seconds"),
  note: text("note"),
  starred: boolean("starred").notNull().default(false),
  /** Since when it may not be put in service any more. */
  retiredAt: moment("retired_at"),
  /** When the blind part was opened, and what it showed. */
  blind: jsonb("blind").$type<BlindLook>(),
  data: jsonb("data").$type<ModelData>().notNull(),
  createdAt: created(),
}, (table) => [uniqueIndex("model_version_number").on(table.pipelineId, table.number)]);

export interface ModelData {
  readonly sources: readonly SourceUse[];
  readonly fingerprints: Readonly<Record<string, { readonly rows: number; readonly changedAt: string | null; readonly marker: string }>>;
  readonly profile: RowProfile;
  /** How columns and predictions were spread; versions of before have none. */
  readonly spreads?: readonly ColumnSpread[];
  readonly trainingRows: number;
  readonly holdoutRows: number;
  /** Table that keeps the scored holdout. */
  readonly holdoutTable: string;
  /** Table that keeps the scored blind part, when there is one. */
  readonly blindTable?: string;
  readonly algorithm?: string;
  /** The learner's settings as they were used, those found by a search included. */
  readonly settings?: Readonly<Record<string, unknown>>;
  readonly without?: readonly string[];
  readonly share?: number;
  /** What a search chose, and its score over the folds. */
  readonly search?: { readonly choices: readonly Choice[]; readonly metric: MetricName; readonly score: number; readonly trials: number };
  /** Most memory the worker held while fitting, in bytes. */
  readonly memory?: number;
}

/** The blind part, once it has been opened. */
export interface BlindLook {
  readonly openedAt: string;
  readonly rows: number;
  readonly figures: Figures;
  readonly intervals: Intervals;
}

/** Who put which version in service when, or took it out. */
export const serviceChanges = pgTable("service_changes", {
  id: serial("id").primaryKey(),
  pipelineId: integer("pipeline_id").notNull().references(() => pipelines.id),
  modelId: integer("model_id").references(() => modelVersions.id),
  at: moment("at").notNull().defaultNow(),
  /** Who did it, as far as that is known, and why. */
  by: text("by"),
  reason: text("reason"),
});

/** How far the columns of a scoring run's rows were from training. */
export const runDrift = pgTable("run_drift", {
  runId: uuid("run_id").primaryKey().references(() => runs.id),
  pipelineId: integer("pipeline_id").notNull().references(() => pipelines.id),
  modelId: integer("model_id").notNull().references(() => modelVersions.id),
  runTime: moment("run_time").notNull(),
  rows: integer("rows").notNull(),
  columns: jsonb("columns").$type<readonly Drift[]>().notNull(),
}, (table) => [index("drift_of_pipeline").on(table.pipelineId, table.runTime)]);

export type AlertKind = "failed" | "contract" | "late" | "drift";

/** What somebody should hear of: one row per matter, from when it came up until it cleared. */
export const alerts = pgTable("alerts", {
  id: serial("id").primaryKey(),
  /** What the alert is about, such as the scoring for one delivery: at most one open alert for each. */
  matter: text("matter").notNull(),
  kind: text("kind").$type<AlertKind>().notNull(),
  pipelineId: integer("pipeline_id").notNull().references(() => pipelines.id),
  title: text("title").notNull(),
  problems: jsonb("problems").$type<readonly Problem[]>().notNull(),
  /** The run that it was last seen in. */
  runId: uuid("run_id").references(() => runs.id),
  openedAt: moment("opened_at").notNull().defaultNow(),
  lastAt: moment("last_at").notNull().defaultNow(),
  times: integer("times").notNull().default(1),
  acknowledgedAt: moment("acknowledged_at"),
  acknowledgedBy: text("acknowledged_by"),
  clearedAt: moment("cleared_at"),
  /** What made it clear. */
  clearedWith: text("cleared_with"),
}, (table) => [uniqueIndex("open_matter").on(table.matter).where(sql`${table.clearedAt} IS NULL`), index("alerts_by_time").on(table.openedAt)]);

export type MissedSetting = "skip" | "catch_up_once";

/** Schedules of the newest pipeline version, with the last slot each has dealt with. */
export const schedules = pgTable("schedules", {
  id: serial("id").primaryKey(),
  pipelineId: integer("pipeline_id").notNull().references(() => pipelines.id),
  name: text("name").notNull(),
  run: text("run").$type<RunKind>().notNull(),
  delivery: text("delivery"),
  /** One of these three says when it runs. */
  cron: text("cron"),
  after: text("after"),
  arrival: text("arrival"),
  /** Up to where `after` or `arrival` has looked. */
  seen: text("seen"),
  zone: text("zone").notNull(),
  missed: text("missed").$type<MissedSetting>().notNull(),
  /** Minutes after its time when a run that is not done counts as late. */
  lateAfter: integer("late_after").notNull().default(30),
  paused: boolean("paused").notNull().default(false),
  /** Times up to here are dealt with. */
  doneUntil: moment("done_until").notNull(),
}, (table) => [uniqueIndex("schedule_name").on(table.pipelineId, table.name)]);

/** Running workers, by their own word. */
export const workers = pgTable("workers", {
  name: text("name").primaryKey(),
  startedAt: moment("started_at").notNull(),
  seenAt: moment("seen_at").notNull(),
});
