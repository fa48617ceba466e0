import { desc, eq, isNull, sql } from "drizzle-orm";
import type { Database } from "./database";
import { pipelines, pipelineVersions } from "./schema";
import type { TablesOfFile } from "./schema/pipelines";

/**
 * The newest version of a pipeline's file, with the tables that it reads and writes, or with its text
 * where that is not known yet.
 */
export interface NewestTables {
  readonly pipeline: string;
  readonly versionId: number;
  readonly tables: TablesOfFile | null;
  readonly text: string | null;
}

/** Of every pipeline that is not deleted, by name. */
export async function newestTables(db: Database): Promise<readonly NewestTables[]> {
  const newest = db
    .selectDistinctOn([pipelineVersions.pipelineId], {
      pipelineId: pipelineVersions.pipelineId,
      versionId: pipelineVersions.id,
      tables: pipelineVersions.tables,
      text: sql<
        string | null
      >`CASE WHEN ${pipelineVersions.tables} IS NULL THEN ${pipelineVersions.text} END`.as("unread_text"),
    })
    .from(pipelineVersions)
    .orderBy(pipelineVersions.pipelineId, desc(pipelineVersions.number))
    .as("newest");
  return db
    .select({
      pipeline: pipelines.name,
      versionId: newest.versionId,
      tables: newest.tables,
      text: newest.text,
    })
    .from(pipelines)
    .innerJoin(newest, eq(newest.pipelineId, pipelines.id))
    .where(isNull(pipelines.deletedAt))
    .orderBy(pipelines.name);
}

/** Keeps which tables a version of a file reads and writes; its text never changes. */
export async function keepTables(db: Database, versionId: number, tables: TablesOfFile): Promise<void> {
  await db.update(pipelineVersions).set({ tables }).where(eq(pipelineVersions.id, versionId));
}
