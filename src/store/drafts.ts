import { and, eq, sql } from "drizzle-orm";
import type { Database } from "./database";
import { drafts } from "./schema";

export type DraftRow = typeof drafts.$inferSelect;

export async function draftOf(db: Database, pipelineId: number): Promise<DraftRow | undefined> {
  return (await db.select().from(drafts).where(eq(drafts.pipelineId, pipelineId)))[0];
}

/**
 * Keeps a draft when nobody kept another since the given revision (0: there was none). Gives the new revision, or the
 * draft that stands there instead; then nothing was written.
 */
export async function keepDraft(
  db: Database,
  wanted: Pick<DraftRow, "pipelineId" | "text" | "basedOn" | "revision">,
): Promise<number | DraftRow> {
  const values = { text: wanted.text, basedOn: wanted.basedOn, updatedAt: new Date() };
  const [kept] =
    wanted.revision === 0
      ? await db
          .insert(drafts)
          .values({ ...values, pipelineId: wanted.pipelineId, revision: 1 })
          .onConflictDoNothing()
          .returning()
      : await db
          .update(drafts)
          .set({ ...values, revision: sql`${drafts.revision} + 1` })
          .where(and(eq(drafts.pipelineId, wanted.pipelineId), eq(drafts.revision, wanted.revision)))
          .returning();
  if (kept) return kept.revision;
  const standing = await draftOf(db, wanted.pipelineId);
  // Thrown away, or saved as a version, by somebody else meanwhile: this draft begins anew.
  return standing ?? keepDraft(db, { ...wanted, revision: 0 });
}

export async function discardDraft(db: Database, pipelineId: number): Promise<void> {
  await db.delete(drafts).where(eq(drafts.pipelineId, pipelineId));
}
