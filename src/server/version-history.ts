import type { Intervals } from "@/core/evaluate/bootstrap";
import type { Figures } from "@/core/evaluate/metrics";
import { listModels, serviceHistory, versionCounts, type ModelSummary } from "@/store/models";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { appContext } from "./context";

/** A version of a model, as far as its course along time shows it. */
export interface CourseVersion {
  readonly id: number;
  readonly number: number;
  readonly candidate: string;
  /** When it was trained, on the application's clock, in milliseconds since 1970. */
  readonly at: number;
  readonly metrics: Figures;
  readonly intervals: Intervals | null;
}

/** A change of the version in service; without a version none is. */
export interface ServiceChange {
  readonly version: number | null;
  readonly at: number;
}

/** The versions of a pipeline along time. */
export interface VersionHistory {
  readonly versions: readonly CourseVersion[];
  readonly changes: readonly ServiceChange[];
  /** The application's clock, in milliseconds since 1970. */
  readonly now: number;
}

/** A history as a chart shows it. @param now the application's clock */
export const historyOf = (
  models: readonly ModelSummary[],
  changes: Awaited<ReturnType<typeof serviceHistory>>,
  now: Date,
): VersionHistory => ({
  versions: models.map(({ id, number, candidate, runTime, metrics, intervals }) => ({
    id,
    number,
    candidate,
    at: runTime.getTime(),
    metrics,
    intervals,
  })),
  changes: changes.map(({ modelId, at }) => ({
    version: models.find(({ id }) => id === modelId)?.number ?? null,
    at: at.getTime(),
  })),
  now: now.getTime(),
});

/**
 * The history of one pipeline, and which others have versions.
 *
 * @param wanted the name of a pipeline; without it, or where it has no versions, the one with most versions
 */
export async function chosenHistory(wanted: string | undefined): Promise<
  | {
      readonly chosen: string;
      readonly pipelines: readonly string[];
      readonly history: VersionHistory;
    }
  | undefined
> {
  const { store, now } = await appContext();
  const [counts, pipelines] = await Promise.all([versionCounts(store.db), listEveryPipeline(store.db)]);
  const living = pipelines.filter(
    ({ id, deletedAt }) => deletedAt === null && counts.some(({ pipelineId }) => pipelineId === id),
  );
  const most = counts.find(({ pipelineId }) => living.some(({ id }) => id === pipelineId))?.pipelineId;
  const chosen = living.find(({ name }) => name === wanted) ?? living.find(({ id }) => id === most);
  if (!chosen) return undefined;
  const [models, changes, at] = await Promise.all([
    listModels(store.db, chosen.id),
    serviceHistory(store.db, chosen.id),
    now(),
  ]);
  return {
    chosen: chosen.name,
    pipelines: living.map(({ name }) => name),
    history: historyOf(models, changes, at),
  };
}
