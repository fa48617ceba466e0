import { and, eq, inArray, isNull, sql } from "drizzle-orm";
import type { Database } from "./database";
import { modelVersions, pipelines } from "./schema";

/**
 * Whether the pipelines of some names have a version of a model, in the order of the names; those that are
 * not there are left out.
 */
export async function trainedByName(
  db: Database,
  names: readonly string[],
): Promise<
  readonly { readonly name: string; readonly trained: boolean; readonly inService: number | null }[]
> {
  const found = await db
    .select({
      name: pipelines.name,
      inService: pipelines.inService,
      trained: sql<boolean>`EXISTS (SELECT 1 FROM ${modelVersions} WHERE ${eq(modelVersions.pipelineId, pipelines.id)})`,
    })
    .from(pipelines)
    .where(and(inArray(pipelines.name, [...names]), isNull(pipelines.deletedAt)));
  return names.flatMap((name) => found.find((pipeline) => pipeline.name === name) ?? []);
}
