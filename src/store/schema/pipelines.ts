import { sql } from "drizzle-orm";
import { index, integer, jsonb, pgTable, serial, text, uniqueIndex } from "drizzle-orm/pg-core";
import { created, moment } from "./columns";

export const pipelines = pgTable(
  "pipelines",
  {
    id: serial("id").primaryKey(),
    name: text("name").notNull(),
    /** What it was called before; the ledger in the warehouse knows its earlier deliveries by these. */
    formerNames: jsonb("former_names").$type<readonly string[]>().notNull().default([]),
    description: text("description"),
    /** The version of the model that scheduled scoring uses. */
    inService: integer("in_service_model_id"),
    createdAt: created(),
    /** Since when it is deleted: its versions and its record stay, and its name can be taken by another. */
    deletedAt: moment("deleted_at"),
  },
  (table) => [
    uniqueIndex("pipeline_name")
      .on(table.name)
      .where(sql`${table.deletedAt} IS NULL`),
  ],
);

/** Names of the tables that a file reads and writes. */
export interface TablesOfFile {
  readonly reads: readonly string[];
  readonly writes: readonly string[];
}

export const pipelineVersions = pgTable(
  "pipeline_versions",
  {
    id: serial("id").primaryKey(),
    pipelineId: integer("pipeline_id")
      .notNull()
      .references(() => pipelines.id),
    number: integer("number").notNull(),
    text: text("text").notNull(),
    note: text("note"),
    /** Tables that it reads and writes; null until somebody asked. */
    tables: jsonb("tables").$type<TablesOfFile>(),
    planHash: text("plan_hash").notNull(),
    createdAt: created(),
  },
  (table) => [uniqueIndex("pipeline_version_number").on(table.pipelineId, table.number)],
);

/** The unsaved state of a pipeline's file: one for everybody, so that two people see each other's work. */
export const drafts = pgTable("drafts", {
  pipelineId: integer("pipeline_id")
    .primaryKey()
    .references(() => pipelines.id),
  text: text("text").notNull(),
  /** Number of the version it began from. */
  basedOn: integer("based_on").notNull(),
  /** Grows with every save, so that a later save by somebody else is noticed. */
  revision: integer("revision").notNull(),
  updatedAt: moment("updated_at").notNull(),
});

/** Texts of drafts that gave way to others, to be fetched back. */
export const textsAside = pgTable(
  "texts_aside",
  {
    id: serial("id").primaryKey(),
    pipelineId: integer("pipeline_id")
      .notNull()
      .references(() => pipelines.id),
    text: text("text").notNull(),
    /** Number of the version it began from. */
    basedOn: integer("based_on").notNull(),
    /** What it was: the draft of the tab in which was chosen, or the one that somebody else had kept. */
    whose: text("whose").$type<"mine" | "theirs" | "draft">().notNull(),
    createdAt: created(),
  },
  (table) => [index("texts_aside_newest").on(table.pipelineId, table.createdAt)],
);

/** Functions in the warehouse that follow a pipeline: what should be there, and whether it is. */
export const publications = pgTable("publications", {
  pipelineId: integer("pipeline_id")
    .primaryKey()
    .references(() => pipelines.id),
  /** Since when the functions may say something else than the version in service; null while they agree. */
  behindSince: moment("behind_since"),
  /** Why they could not be made to agree. */
  problem: text("problem"),
  /** Names of the functions when they last agreed. */
  names: jsonb("names").$type<readonly string[]>().notNull().default([]),
});
