import { backfillRuns, listBackfills } from "@/store/backfills";
import { driftOfPipeline, pastDrift } from "@/store/drift";
import { promisesOf, serviceHistory } from "@/store/models";
import { listPipelines, listSchedules } from "@/store/pipelines";
import { listRuns, newestByDelivery } from "@/store/runs";
import { truthOfPipeline } from "@/store/truth";
import { parseFile } from "@/runs/parse-file";
import { appContext } from "./context";
import { pageOf } from "./stages";
import { offeredTables } from "./tables";
import { historyOf } from "./version-history";

/** Days of past predictions that are shown. */
const SHOWN_DAYS = 120;
/** Scoring runs that are looked at for drift, the newest. */
const DRIFT_RUNS = 90;

async function backfillsOf(pipelineId: number) {
  const { store } = await appContext();
  const rows = await listBackfills(store.db, pipelineId);
  return Promise.all(rows.map(async (row) => ({ row, runs: await backfillRuns(store.db, row.id) })));
}

async function truthWithPromises(pipelineId: number, now: Date) {
  const { store } = await appContext();
  const since = new Date(now.getTime() - SHOWN_DAYS * 86_400_000).toISOString().slice(0, 10);
  const truth = await truthOfPipeline(store.db, pipelineId, since);
  return { truth, promises: await promisesOf(store.db, [...new Set(truth.map((row) => row.modelId))]) };
}

/**
 * What the page of a pipeline's deliveries shows.
 * @param fewRuns scoring runs that are listed, the newest
 */
export async function deliverForPage(name: string, fewRuns: number) {
  const [opened, { store, warehouse, now }] = await Promise.all([pageOf(name), appContext()]);
  const { pipeline, checked, models, versions } = opened;
  const time = await now();
  const [
    pipelines,
    tables,
    past,
    backfills,
    [drift],
    driftBefore,
    history,
    schedules,
    ledger,
    runs,
    newestRuns,
    parsed,
  ] = await Promise.all([
    listPipelines(store.db),
    offeredTables(warehouse).then(
      (offered) => offered.tables,
      () => [],
    ),
    truthWithPromises(pipeline.id, time),
    backfillsOf(pipeline.id),
    driftOfPipeline(store.db, pipeline.id, 1),
    pastDrift(store.db, pipeline.id, DRIFT_RUNS),
    serviceHistory(store.db, pipeline.id),
    listSchedules(store.db, [pipeline.id]),
    warehouse.ledger.newestOfDeliveries(pipeline),
    listRuns(store.db, { limit: fewRuns, pipelineId: pipeline.id, kind: "score" }),
    newestByDelivery(store.db, pipeline.id),
    parseFile(versions[0]?.text ?? ""),
  ]);
  // What is delivered is told also when a source has broken and the plan cannot be made.
  const file = parsed.ok ? parsed.value.file : undefined;
  return {
    ...past,
    pipeline,
    checked,
    models,
    versions,
    time,
    file,
    deliveries: file?.delivery ?? [],
    inService: models.find((model) => model.id === pipeline.inService),
    outputSchema: warehouse.config.outputSchema,
    pipelines,
    tables,
    backfills,
    drift,
    driftBefore,
    history,
    course: historyOf(models, history, time),
    schedules,
    ledger,
    runs,
    newestRuns,
  };
}

/** What the page of a pipeline's deliveries is given. */
export type DeliverPageData = Awaited<ReturnType<typeof deliverForPage>>;
