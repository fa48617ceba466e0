import { parseFile } from "../parse-file";
import { listModels } from "@/store/models";
import {
  findPipeline,
  listPipelines,
  listSchedules,
  newestVersion,
  type PipelineRow,
} from "@/store/pipelines";
import { endPipeline, openRuns } from "@/store/pipeline-lives";
import { takeTurn } from "@/store/database";
import type { Context } from "../context";
import { functionName } from "../publish";
import { reconcileFunctions } from "../reconcile";

/** What ends with a pipeline, and what stays of it. */
export interface PipelineEnds {
  readonly deliveries: readonly { readonly name: string; readonly tables: readonly string[] }[];
  readonly schedules: readonly string[];
  readonly functions: readonly string[];
  /** Number of the version in service. */
  readonly inService: number | null;
  /** Runs that wait or are under way. */
  readonly runs: number;
  /** Pipelines with schedules that wait for its deliveries. */
  readonly waiting: readonly string[];
  /** Versions of the model that are kept. */
  readonly versions: number;
}

/** Looks at what would end with a pipeline. */
export async function endsWith(context: Context, pipeline: PipelineRow): Promise<PipelineEnds> {
  const { db } = context.store;
  const [newest, own, models, runs, waiting] = await Promise.all([
    newestVersion(db, pipeline.id),
    listSchedules(db, [pipeline.id]),
    listModels(db, pipeline.id),
    openRuns(db, pipeline.id),
    waitingFor(context, pipeline.name),
  ]);
  const parsed = newest && (await parseFile(newest.text));
  const file = parsed?.ok ? parsed.value.file : undefined;
  const served = models.find((model) => model.id === pipeline.inService);
  return {
    deliveries: (file?.delivery ?? []).map((delivery) => ({
      name: delivery.name,
      tables: [...delivery.routes.map((route) => route.table), delivery.table],
    })),
    schedules: own.map((schedule) => schedule.name),
    functions:
      file?.functions && served ? [functionName(pipeline.name), `${functionName(pipeline.name)}_rows`] : [],
    inService: served?.number ?? null,
    runs: runs.length,
    waiting: waiting.map((other) => other.name),
    versions: models.length,
  };
}

/** Pipelines of which a schedule waits for the deliveries of a name. */
export async function waitingFor({ store: { db } }: Context, name: string): Promise<readonly PipelineRow[]> {
  const ids = new Set(
    (await listSchedules(db))
      .filter((schedule) => schedule.after === name)
      .map((schedule) => schedule.pipelineId),
  );
  return (await listPipelines(db)).filter((pipeline) => ids.has(pipeline.id));
}

/**
 * Deletes a pipeline: what it delivers, its schedules and its functions end. Prediction tables, versions, runs and the record of what
 * was in service stay; its name can be taken by another.
 */
export async function removePipeline(context: Context, pipeline: PipelineRow, by: string): Promise<void> {
  const { store } = context;
  await takeTurn(store, pipeline.id, true, async () => {
    if (await findPipeline(store.db, pipeline.name))
      await endPipeline(store.db, pipeline, await context.now(), by);
  });
  // That they are to go is recorded with the rest; a worker does it again where this fails.
  await reconcileFunctions(context);
}
