import { and, eq, sql } from "drizzle-orm";
import type { TableProfile } from "@/core/evaluate/table-profile";
import type { TableReference } from "@/core/relation/relation";
import type { Database } from "./database";
import { tableFacts } from "./schema";

export type TableFactsRow = typeof tableFacts.$inferSelect;

const isTable = ({ schema, table }: TableReference) =>
  and(eq(tableFacts.schemaName, schema), eq(tableFacts.tableName, table));

/** What we keep of all tables, or of one. */
export async function listTableFacts(
  db: Database,
  table?: TableReference,
): Promise<readonly TableFactsRow[]> {
  return table ? db.select().from(tableFacts).where(isTable(table)) : db.select().from(tableFacts);
}

/** What people wrote about tables and their columns. */
export type TableWords = Awaited<ReturnType<typeof listTableWords>>[number];

/** What people wrote about all tables, without what was measured. */
export async function listTableWords(db: Database) {
  return db
    .select({
      schema: tableFacts.schemaName,
      table: tableFacts.tableName,
      description: tableFacts.description,
      columnDescriptions: tableFacts.columnDescriptions,
    })
    .from(tableFacts);
}

/** Puts something of a table; what is left out stays. */
export async function putTableFacts(
  db: Database,
  { schema, table }: TableReference,
  values: Partial<Omit<TableFactsRow, "schemaName" | "tableName">>,
): Promise<void> {
  await db
    .insert(tableFacts)
    .values({ schemaName: schema, tableName: table, ...values })
    .onConflictDoUpdate({ target: [tableFacts.schemaName, tableFacts.tableName], set: values });
}

/** Describes a column; an empty text takes the description away. */
export async function describeColumn(
  db: Database,
  reference: TableReference,
  column: string,
  words: string,
): Promise<void> {
  await db
    .insert(tableFacts)
    .values({ schemaName: reference.schema, tableName: reference.table })
    .onConflictDoNothing();
  const change =
    words === ""
      ? sql`${tableFacts.columnDescriptions} - ${column}::text`
      : sql`${tableFacts.columnDescriptions} || jsonb_build_object(${column}::text, ${words}::text)`;
  await db.update(tableFacts).set({ columnDescriptions: change }).where(isTable(reference));
}

export async function keepProfile(
  db: Database,
  reference: TableReference,
  profile: TableProfile,
): Promise<void> {
  await putTableFacts(db, reference, { profile, profiledAt: new Date(), profileProblem: null });
}

/** Tables whose profile was asked for, or is older than its schedule allows. */
export async function dueProfiles(db: Database): Promise<readonly TableReference[]> {
  const rows = await db
    .select({ schema: tableFacts.schemaName, table: tableFacts.tableName })
    .from(tableFacts).where(sql`
    (${tableFacts.profileAskedAt} IS NOT NULL AND ${tableFacts.profileAskedAt} > coalesce(${tableFacts.profiledAt}, '-infinity') AND ${tableFacts.profileProblem} IS NULL)
    OR (${tableFacts.refreshHours} IS NOT NULL AND coalesce(${tableFacts.profiledAt}, '-infinity') < now() - make_interval(hours => ${tableFacts.refreshHours}) AND coalesce(${tableFacts.profileAskedAt}, '-infinity') < now() - make_interval(hours => ${tableFacts.refreshHours}))`);
  return rows;
}
