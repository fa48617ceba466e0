import {
  boolean,
  doublePrecision,
  integer,
  jsonb,
  pgTable,
  serial,
  text,
  uniqueIndex,
  uuid,
} from "drizzle-orm/pg-core";
import type { Intervals } from "@/core/evaluate/bootstrap";
import type { Challenge } from "@/core/evaluate/challenge";
import type { ColumnSpread } from "@/core/evaluate/spread";
import type { Leaving } from "@/core/evaluate/leaving";
import type { Judgement } from "@/core/evaluate/judgement";
import type { Figures, MetricName } from "@/core/evaluate/metrics";
import type { Bucket } from "@/core/evaluate/threshold";
import type { Model } from "@/core/learn/model";
import type { Choice } from "@/core/learn/search/space";
import type { Engine } from "@/core/learn/task";
import type { LearnedValues } from "@/core/plan/build";
import type { RowProfile } from "@/core/plan/row-profile";
import type { FrameShape } from "@/core/plan/frame";
import type { SourceUse } from "@/core/plan/plan";
import { created, moment } from "./columns";
import { pipelines, pipelineVersions } from "./pipelines";
import { runs } from "./runs";

/** What a training saw and made: everything scoring and judging need, as data. */
export const modelVersions = pgTable(
  "model_versions",
  {
    id: serial("id").primaryKey(),
    pipelineId: integer("pipeline_id")
      .notNull()
      .references(() => pipelines.id),
    number: integer("number").notNull(),
    pipelineVersionId: integer("pipeline_version_id")
      .notNull()
      .references(() => pipelineVersions.id),
    runId: uuid("run_id")
      .notNull()
      .references(() => runs.id)
      .unique(),
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
    /** How it did against the version in service when it was trained, and what the rule for retraining made of that. */
    challenge: jsonb("challenge").$type<Challenge>(),
    /** When the blind part was opened, and what it showed. */
    blind: jsonb("blind").$type<BlindLook>(),
    data: jsonb("data").$type<ModelData>().notNull(),
    createdAt: created(),
  },
  (table) => [uniqueIndex("model_version_number").on(table.pipelineId, table.number)],
);

export interface ModelData {
  readonly sources: readonly SourceUse[];
  readonly fingerprints: Readonly<
    Record<string, { readonly rows: number; readonly changedAt: string | null; readonly marker: string }>
  >;
  readonly profile: RowProfile;
  /** How columns and predictions were spread; versions of before have none. */
  readonly spreads?: readonly ColumnSpread[];
  readonly trainingRows: number;
  /** Rows that did not train since their answer is neither positive nor negative, where both are named. */
  readonly leftOut?: number;
  readonly holdoutRows: number;
  /** Table that keeps the scored holdout; none when a version was trained on all rows and judged on none. */
  readonly holdoutTable?: string;
  /** Columns that steps changed, with the columns of the judged rows that hold what their values were; versions of before have none. */
  readonly originals?: readonly { readonly column: string; readonly copy: string }[];
  /** Table that keeps scored training rows; versions of before have none. */
  readonly trainedTable?: string;
  /** Table that keeps the scored blind part, when there is one. */
  readonly blindTable?: string;
  readonly algorithm?: string;
  /** The learner's settings as they were used, those found by a search included. */
  readonly settings?: Readonly<Record<string, unknown>>;
  readonly without?: readonly string[];
  readonly share?: number;
  /** What a search chose, and its score over the folds. */
  readonly search?: {
    readonly choices: readonly Choice[];
    readonly metric: MetricName;
    readonly score: number;
    readonly trials: number;
  };
  /** What left the warehouse; versions of before do not say. */
  readonly leaving?: Leaving;
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
