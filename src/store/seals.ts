import { and, desc, eq, inArray } from "drizzle-orm";
import type { Database } from "./database";
import { scratchSeals } from "./schema";

/** A complete scratch table of a run. */
export type Seal = Pick<
  typeof scratchSeals.$inferSelect,
  "runId" | "table" | "purpose" | "madeFrom" | "rows"
>;

/** Records that a scratch table is complete. */
export async function addSeal(db: Database, seal: Seal): Promise<void> {
  const { runId, table, purpose, madeFrom, rows } = seal;
  await db
    .insert(scratchSeals)
    .values({ runId, table, purpose, madeFrom, rows })
    .onConflictDoUpdate({
      target: [scratchSeals.runId, scratchSeals.table],
      set: { purpose, madeFrom, rows, sealedAt: new Date() },
    });
}

/** The complete scratch tables of runs, the newest first. */
export function sealsOf(db: Database, runIds: readonly string[]): Promise<readonly Seal[]> {
  if (runIds.length === 0) return Promise.resolve([]);
  return db
    .select()
    .from(scratchSeals)
    .where(inArray(scratchSeals.runId, [...runIds]))
    .orderBy(desc(scratchSeals.sealedAt));
}

/** Forgets that scratch tables were complete: they are dropped. */
export async function forgetSeals(db: Database, runId: string, tables: readonly string[]): Promise<void> {
  if (tables.length === 0) return;
  await db
    .delete(scratchSeals)
    .where(and(eq(scratchSeals.runId, runId), inArray(scratchSeals.table, [...tables])));
}
