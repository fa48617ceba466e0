import { boolean, jsonb, pgTable, serial, text } from "drizzle-orm/pg-core";
import { moment } from "./columns";

/** Settings of the whole installation: the demo clock, for one. */
export const settings = pgTable("settings", {
  key: text("key").primaryKey(),
  value: jsonb("value").notNull(),
});

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

/** Running workers, by their own word. */
export const workers = pgTable("workers", {
  name: text("name").primaryKey(),
  startedAt: moment("started_at").notNull(),
  seenAt: moment("seen_at").notNull(),
  /** Whether it takes large runs too. */
  takesLarge: boolean("takes_large").notNull().default(true),
  /** What it tried to do regularly and could not, in words; null when all went well. */
  trouble: text("trouble"),
});
