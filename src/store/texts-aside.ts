import { and, desc, eq, notInArray } from "drizzle-orm";
import type { Database } from "./database";
import { textsAside } from "./schema";

export type TextAside = typeof textsAside.$inferSelect;

/** Texts that are kept for a pipeline, the newest. */
const MOST_ASIDE = 40;

/** Keeps texts that give way to others. One that is there already is not kept again. */
export async function setTextsAside(
  db: Database,
  texts: readonly Pick<TextAside, "pipelineId" | "text" | "basedOn" | "whose">[],
): Promise<void> {
  const [pipelineId] = texts.map((aside) => aside.pipelineId);
  if (pipelineId === undefined) return;
  const known = new Set((await textsAsideOf(db, pipelineId)).map(({ text }) => text));
  const fresh = texts.filter(({ text }) => !known.has(text));
  if (fresh.length > 0) await db.insert(textsAside).values([...fresh]);
  const kept = (await textsAsideOf(db, pipelineId)).map(({ id }) => id);
  await db
    .delete(textsAside)
    .where(and(eq(textsAside.pipelineId, pipelineId), notInArray(textsAside.id, [...kept, 0])));
}

/** Texts that gave way to others, the newest first. */
export async function textsAsideOf(db: Database, pipelineId: number): Promise<readonly TextAside[]> {
  return db
    .select()
    .from(textsAside)
    .where(eq(textsAside.pipelineId, pipelineId))
    .orderBy(desc(textsAside.createdAt), desc(textsAside.id))
    .limit(MOST_ASIDE);
}

export async function textAsideById(db: Database, id: number): Promise<TextAside | undefined> {
  return (await db.select().from(textsAside).where(eq(textsAside.id, id)))[0];
}
