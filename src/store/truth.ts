import { and, asc, gte, inArray, sql } from "drizzle-orm";
import type { Database } from "./database";
import { truthDays } from "./schema";

export type TruthRow = typeof truthDays.$inferSelect;

/** Keeps how days turned out; later measurements of a day replace earlier ones. */
export async function keepTruth(
  db: Database,
  days: readonly Omit<typeof truthDays.$inferInsert, "measuredAt">[],
): Promise<void> {
  if (days.length === 0) return;
  await db
    .insert(truthDays)
    .values([...days])
    .onConflictDoUpdate({
      target: [truthDays.pipelineId, truthDays.delivery, truthDays.modelId, truthDays.day],
      set: {
        predicted: sql`excluded.predicted`,
        answered: sql`excluded.answered`,
        figures: sql`excluded.figures`,
        answers: sql`excluded.answers`,
        measuredAt: sql`now()`,
      },
    });
}

/** How predictions of a pipeline turned out from a day on, oldest first. */
export async function truthOfPipeline(
  db: Database,
  pipelineId: number,
  since: string,
): Promise<readonly TruthRow[]> {
  return truthOfPipelines(db, [pipelineId], since);
}

/** How predictions of some pipelines turned out from a day on, oldest first. */
export async function truthOfPipelines(
  db: Database,
  pipelineIds: readonly number[],
  since: string,
): Promise<readonly TruthRow[]> {
  if (pipelineIds.length === 0) return [];
  return db
    .select()
    .from(truthDays)
    .where(and(inArray(truthDays.pipelineId, [...pipelineIds]), gte(truthDays.day, since)))
    .orderBy(asc(truthDays.day), asc(truthDays.modelId));
}
