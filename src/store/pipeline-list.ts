import { and, asc, count, desc, eq, inArray, isNotNull, isNull, sql } from "drizzle-orm";
import type { Figures } from "@/core/evaluate/metrics";
import { containsWords } from "./contains";
import type { Database } from "./database";
import { modelVersions, pipelines, pipelineVersions, runs, type RunState } from "./schema";

export const PIPELINE_FILTERS = ["in_service", "not_in_service", "failed"] as const;
export type PipelineFilter = (typeof PIPELINE_FILTERS)[number];

/** What a list says of a pipeline. */
export interface ListedPipeline {
  readonly id: number;
  readonly name: string;
  readonly description: string | null;
  readonly version: { readonly number: number; readonly createdAt: Date } | undefined;
  readonly current: { readonly id: number; readonly number: number; readonly metrics: Figures } | undefined;
  readonly versions: number;
  readonly last: { readonly id: string; readonly state: RunState } | undefined;
}

/** The newest run of each pipeline. */
const newestRuns = (db: Database) =>
  db
    .selectDistinctOn([runs.pipelineId], { pipelineId: runs.pipelineId, id: runs.id, state: runs.state })
    .from(runs)
    .orderBy(runs.pipelineId, desc(runs.createdAt))
    .as("newest_runs");

/** Pipelines that are not deleted, by name: those of a page, and how many there are. In a few statements, however many there are. */
export async function pipelinePage(
  db: Database,
  wanted: {
    readonly words: string;
    readonly filter: PipelineFilter | undefined;
    readonly offset: number;
    readonly limit: number;
  },
): Promise<{ readonly entries: readonly ListedPipeline[]; readonly all: number }> {
  const newest = newestRuns(db);
  const filters = {
    in_service: isNotNull(pipelines.inService),
    not_in_service: isNull(pipelines.inService),
    failed: eq(newest.state, "failed"),
  };
  const condition = and(
    isNull(pipelines.deletedAt),
    containsWords(wanted.words, [pipelines.name, pipelines.description]),
    wanted.filter && filters[wanted.filter],
  );
  const [found, counted] = await Promise.all([
    db
      .select({
        id: pipelines.id,
        name: pipelines.name,
        description: pipelines.description,
        modelId: modelVersions.id,
        modelNumber: modelVersions.number,
        metrics: modelVersions.metrics,
        runId: newest.id,
        runState: newest.state,
      })
      .from(pipelines)
      .leftJoin(modelVersions, eq(modelVersions.id, pipelines.inService))
      .leftJoin(newest, eq(newest.pipelineId, pipelines.id))
      .where(condition)
      .orderBy(asc(pipelines.name))
      .limit(wanted.limit)
      .offset(wanted.offset),
    db
      .select({ all: count() })
      .from(pipelines)
      .leftJoin(newest, eq(newest.pipelineId, pipelines.id))
      .where(condition),
  ]);
  const ids = found.map(({ id }) => id);
  const [files, models] =
    ids.length === 0
      ? [[], []]
      : await Promise.all([
          db
            .selectDistinctOn([pipelineVersions.pipelineId], {
              pipelineId: pipelineVersions.pipelineId,
              number: pipelineVersions.number,
              createdAt: pipelineVersions.createdAt,
            })
            .from(pipelineVersions)
            .where(inArray(pipelineVersions.pipelineId, ids))
            .orderBy(pipelineVersions.pipelineId, desc(pipelineVersions.number)),
          db
            .select({ pipelineId: modelVersions.pipelineId, versions: sql<number>`count(*)::int` })
            .from(modelVersions)
            .where(inArray(modelVersions.pipelineId, ids))
            .groupBy(modelVersions.pipelineId),
        ]);
  return {
    all: counted[0]?.all ?? 0,
    entries: found.map(({ id, name, description, modelId, modelNumber, metrics, runId, runState }) => ({
      id,
      name,
      description,
      version: files.find((file) => file.pipelineId === id),
      current:
        modelId === null || modelNumber === null
          ? undefined
          : { id: modelId, number: modelNumber, metrics: metrics! },
      versions: models.find((model) => model.pipelineId === id)?.versions ?? 0,
      last: runId === null || runState === null ? undefined : { id: runId, state: runState },
    })),
  };
}
