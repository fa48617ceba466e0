import { z } from "zod";
import { writeTableName } from "@/core/pipeline/table-name";
import { offeredTables } from "@/server/tables";
import { appContext } from "@/server/context";
import { newestOfDeliveries } from "@/server/deliveries";
import { pageOf } from "@/server/stages";
import { listPipelines, listSchedules } from "@/store/pipelines";
import { isMoment } from "@/core/value-type";
import { backfillRuns, listBackfills } from "@/store/backfills";
import { driftOfPipeline } from "@/store/drift";
import { promisesOf } from "@/store/models";
import { truthOfPipeline } from "@/store/truth";
import { serviceHistory } from "@/store/models";
import { listRuns, newestByDelivery } from "@/store/runs";
import { Empty } from "@/ui/basic/empty";
import { Problems } from "@/ui/basic/problems";
import { DriftView } from "@/ui/deliver/drift-view";
import { OnDemandPanel } from "@/ui/deliver/on-demand-panel";
import { BackfillPanel } from "@/ui/deliver/backfill-panel";
import { TruthView } from "@/ui/deliver/truth-view";
import { VersionsInService } from "@/ui/deliver/versions-in-service";
import { DeliveryTable } from "@/ui/deliver/delivery-table";
import type { DeliveryFacts } from "@/ui/deliver/delivery-draft";
import { DeliveryForm } from "@/ui/deliver/delivery-form";
import { FunctionList } from "@/ui/deliver/function-list";
import { RetrainingForm } from "@/ui/deliver/retraining-form";
import { ScheduleTable } from "@/ui/deliver/schedule-table";
import type { ScheduleFacts } from "@/ui/deliver/schedule-draft";
import { ScheduleForm } from "@/ui/deliver/schedule-form";
import { EarlierRuns } from "@/ui/runs/earlier-runs";
import { RunTable } from "@/ui/runs/run-table";
import { InServiceLine } from "@/ui/deliver/in-service-line";
import { seenBackfill, sourceName, truthMetrics, truthModel } from "./shown";
import { parseFile } from "@/runs/parse-file";

/** Days of past predictions that are shown. */
const SHOWN_DAYS = 120;
/** Scoring runs that are listed, the newest. */
const FEW_RUNS = 10;

interface PageProps {
  readonly params: Promise<{ name: string }>;
  /** A threshold that was chosen on the page of a version, for a new delivery. */
  readonly searchParams: Promise<{ threshold?: string }>;
}

export default async function DeliverPage({ params, searchParams }: PageProps) {
  const { pipeline, checked, models, versions } = await pageOf((await params).name);
  const { store, warehouse, now } = await appContext();
  const since = new Date((await now()).getTime() - SHOWN_DAYS * 86_400_000).toISOString().slice(0, 10);
  const [pipelines, catalog, truth, backfills, drift, history, schedules, ledger, runs, newestRuns, time] =
    await Promise.all([
      listPipelines(store.db),
      offeredTables(warehouse).catch(() => ({ tables: [] })),
      truthOfPipeline(store.db, pipeline.id, since),
      listBackfills(store.db, pipeline.id).then((all) =>
        Promise.all(all.map(async (each) => ({ row: each, runs: await backfillRuns(store.db, each.id) }))),
      ),
      driftOfPipeline(store.db, pipeline.id, 90),
      serviceHistory(store.db, pipeline.id),
      listSchedules(store.db, [pipeline.id]),
      newestOfDeliveries(warehouse, pipeline),
      listRuns(store.db, { limit: FEW_RUNS, pipelineId: pipeline.id, kind: "score" }),
      newestByDelivery(store.db, pipeline.id),
      now(),
    ]);
  // What is delivered is told also when a source has broken and the plan cannot be made.
  const parsed = await parseFile(versions[0]?.text ?? "");
  const deliveries = parsed.ok ? parsed.value.file.delivery : [];
  const inService = models.find((each) => each.id === pipeline.inService);
  const file = parsed.ok ? parsed.value.file : undefined;
  const promises = await promisesOf(store.db, [...new Set(truth.map((each) => each.modelId))]);
  const read = new Set((checked.ok ? checked.value.sources : []).map(writeTableName));
  const sources = catalog.tables
    .filter((each) => read.has(writeTableName(each)))
    .map((each) => ({
      table: writeTableName(each),
      times: each.columns.filter((column) => isMoment(column.type)).map((column) => column.name),
    }));
  const threshold = z.coerce
    .number()
    .min(0)
    .max(1)
    .safeParse((await searchParams).threshold);
  const columns = checked.ok
    ? [...checked.value.main.output.keys()].filter((column) => !checked.value.file.roles.key.includes(column))
    : [];
  const facts: DeliveryFacts = {
    ...(threshold.success ? { threshold: threshold.data } : {}),
    pipeline: pipeline.name,
    schema: warehouse.config.outputSchema,
    keys: file?.roles.key ?? [],
    taken: deliveries.map(({ name }) => name),
    target: file?.roles.target.kind ?? "binary",
    columns,
  };
  const scheduleFacts: ScheduleFacts = {
    pipeline: pipeline.name,
    taken: (file?.schedules ?? []).map(({ name }) => name),
    deliveries: deliveries.map(({ name }) => name),
    others: pipelines.map(({ name }) => name).filter((name) => name !== pipeline.name),
    sources,
    now: time.toISOString(),
  };
  return (
    <div className="page py-6">
      {!checked.ok && (
        <div className="mb-6">
          <Problems problems={checked.problems} />
        </div>
      )}
      <InServiceLine pipeline={pipeline.name} inService={inService} hasModels={models.length > 0} />
      {models.length > 0 && (
        <VersionsInService
          pipeline={pipeline.name}
          models={models}
          inService={pipeline.inService}
          history={history}
        />
      )}
      {file && (
        <RetrainingForm
          key={`retraining/${versions[0]?.number}`}
          pipeline={pipeline.name}
          target={file.roles.target.kind}
          retraining={file.retraining}
          functions={file.functions?.grant_to}
        />
      )}
      {file?.functions && <FunctionList key={pipeline.inService} pipeline={pipeline.name} />}
      <div className="mb-1 mt-8 flex items-center gap-4">
        <h2>Deliveries</h2>
        {file && (
          <DeliveryForm facts={facts} delivery={undefined} place={null}>
            <button type="button" className="press">
              Add delivery
            </button>
          </DeliveryForm>
        )}
      </div>
      {deliveries.length === 0 && (
        <Empty title="No deliveries yet.">
          A delivery says which table predictions are written to, and how.
        </Empty>
      )}
      {deliveries.length > 0 && (
        <DeliveryTable
          facts={facts}
          deliveries={deliveries}
          ledger={ledger}
          runs={newestRuns}
          canScore={inService !== undefined}
        />
      )}
      {inService && versions[0] && versions[0].planHash !== inService.planHash && (
        <p className="mt-2 text-sm text-weld">
          The newest file prepares rows differently from version {inService.number}. Until a version trained
          from it is in service, deliveries follow the file that version {inService.number} was trained from.
        </p>
      )}
      <div className="mt-8 flex items-center gap-4">
        <h2>Schedules</h2>
        {file && (
          <ScheduleForm facts={scheduleFacts} schedule={undefined} place={null}>
            <button type="button" className="press">
              Add schedule
            </button>
          </ScheduleForm>
        )}
      </div>
      {schedules.length === 0 ? (
        <p className="text-faded">None: runs are started manually.</p>
      ) : (
        <ScheduleTable
          facts={scheduleFacts}
          schedules={schedules}
          file={file}
          canScore={inService !== undefined}
        />
      )}
      <TruthView
        days={truth}
        current={scheduleFacts.deliveries}
        models={models.map((model) => truthModel(model, deliveries, promises, truth))}
        inService={pipeline.inService}
        metrics={truthMetrics(file)}
      />
      <DriftView runs={drift} />
      {parsed.ok && (
        <OnDemandPanel
          pipeline={pipeline.name}
          disabled={!inService}
          like={sourceName(parsed.value.file)}
          columns={facts.columns}
          tables={catalog.tables.map(writeTableName)}
        />
      )}
      {deliveries.length > 0 && (
        <BackfillPanel
          pipeline={pipeline.name}
          deliveries={deliveries.map((each) => each.name)}
          today={time.toISOString().slice(0, 10)}
          disabled={!inService && !deliveries.some(({ of }) => of === "features")}
          backfills={backfills.map(seenBackfill)}
        />
      )}
      {runs.length > 0 && (
        <section className="mt-8" aria-label="Scoring runs">
          <h2>Scoring runs</h2>
          <RunTable runs={runs} names={new Map([[pipeline.id, pipeline.name]])} />
          <EarlierRuns shown={runs.length} few={FEW_RUNS} />
        </section>
      )}
    </div>
  );
}
