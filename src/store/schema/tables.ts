import {
  boolean,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  uuid,
} from "drizzle-orm/pg-core";
import type { TableProfile } from "@/core/evaluate/table-profile";
import type { Choices, FileLook, LookWishes, Misfit } from "@/core/files/look";
import type { Problem } from "@/core/problem";
import { created, moment } from "./columns";

export type ImportState = "looking" | "looked" | "loading" | "done" | "failed" | "cancelled";

/** Files on their way into a table: what was found, what was decided, how far it is, what came out. */
export const imports = pgTable(
  "imports",
  {
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
    /** The import whose rows have to be in the table before those of this one are added. */
    afterId: uuid("after_id"),
    worker: text("worker"),
    heartbeatAt: moment("heartbeat_at"),
    problems: jsonb("problems").$type<readonly Problem[]>().notNull().default([]),
    /** The first rows that did not fit, when loading stopped at them or left them out. */
    misfits: jsonb("misfits").$type<readonly Misfit[]>().notNull().default([]),
    createdAt: created(),
    stageStartedAt: moment("stage_started_at"),
    finishedAt: moment("finished_at"),
  },
  (table) => [index("imports_newest").on(table.createdAt)],
);

/** What we know of a warehouse table besides what it says itself: words of people, and what its rows were found to be. */
export const tableFacts = pgTable(
  "table_facts",
  {
    schemaName: text("schema_name").notNull(),
    tableName: text("table_name").notNull(),
    description: text("description"),
    columnDescriptions: jsonb("column_descriptions")
      .$type<Readonly<Record<string, string>>>()
      .notNull()
      .default({}),
    profile: jsonb("profile").$type<TableProfile>(),
    profiledAt: moment("profiled_at"),
    /** When a profile was last asked for: it is under way while this is the later of the two. */
    profileAskedAt: moment("profile_asked_at"),
    profileProblem: text("profile_problem"),
    /** Hours after which the profile is taken anew by itself; null: only on request. */
    refreshHours: integer("refresh_hours"),
  },
  (table) => [primaryKey({ columns: [table.schemaName, table.tableName] })],
);
