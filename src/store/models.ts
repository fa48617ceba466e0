import { and, desc, eq, sql } from "drizzle-orm";
import { logisticModelSchema } from "@/core/learn/logistic-model";
import type { Database } from "./database";
import { modelVersions, pipelines, serviceChanges } from "./schema";

export type ModelRow = typeof modelVersions.$inferSelect;

/** A stored model is data from outside the code: it is checked when read. */
const checked = (row: ModelRow): ModelRow => ({ ...row, model: logisticModelSchema.parse(row.model) });

/** Adds a model version under the pipeline's next number. A run makes at most one: a retry gets the one it made. */
export async function addModel(db: Database, values: Omit<typeof modelVersions.$inferInsert, "number" | "id">): Promise<ModelRow> {
  return db.transaction(async (tx) => {
    await tx.select().from(pipelines).where(eq(pipelines.id, values.pipelineId)).for("update");
    const [made] = await tx.select().from(modelVersions).where(eq(modelVersions.runId, values.runId));
    if (made) return checked(made);
    const [newest] = await tx.select({ number: sql<number>`coalesce(max(${modelVersions.number}), 0)` }).from(modelVersions).where(eq(modelVersions.pipelineId, values.pipelineId));
    const [row] = await tx.insert(modelVersions).values({ ...values, number: (newest?.number ?? 0) + 1 }).returning();
    return row!;
  });
}

export async function modelById(db: Database, id: number): Promise<ModelRow | undefined> {
  const [row] = await db.select().from(modelVersions).where(eq(modelVersions.id, id));
  return row && checked(row);
}

/** Model versions, newest first. */
export async function listModels(db: Database, pipelineId?: number): Promise<readonly ModelRow[]> {
  const query = db.select().from(modelVersions);
  return (pipelineId === undefined ? query : query.where(eq(modelVersions.pipelineId, pipelineId))).orderBy(desc(modelVersions.createdAt));
}

/** Puts one version of a pipeline in service, or none. The change is recorded. */
export async function setInService(db: Database, pipelineId: number, modelId: number | null): Promise<void> {
  await db.transaction(async (tx) => {
    if (modelId !== null) {
      const [fits] = await tx.select({ id: modelVersions.id }).from(modelVersions).where(and(eq(modelVersions.id, modelId), eq(modelVersions.pipelineId, pipelineId)));
      if (!fits) throw new RangeError("this model version belongs to another pipeline");
    }
    await tx.update(pipelines).set({ inService: modelId }).where(eq(pipelines.id, pipelineId));
    await tx.insert(serviceChanges).values({ pipelineId, modelId });
  });
}

export async function serviceHistory(db: Database, pipelineId: number): Promise<readonly (typeof serviceChanges.$inferSelect)[]> {
  return db.select().from(serviceChanges).where(eq(serviceChanges.pipelineId, pipelineId)).orderBy(desc(serviceChanges.id));
}
