import { z } from "zod";
import { writeTableName } from "@/core/pipeline/table-name";
import { deliverForPage } from "@/server/deliver-page";
import { AfterFirstPaint } from "@/ui/basic/after-first-paint";
import { Problems } from "@/ui/basic/problems";
import { BackfillPanel } from "@/ui/deliver/backfill-panel";
import { DriftView } from "@/ui/deliver/drift-view";
import { FunctionList } from "@/ui/deliver/function-list";
import { InServiceLine } from "@/ui/deliver/in-service-line";
import { OnDemandPanel } from "@/ui/deliver/on-demand-panel";
import { RetrainingForm } from "@/ui/deliver/retraining-form";
import { TruthView } from "@/ui/deliver/truth-view";
import { VersionsInService } from "@/ui/deliver/versions-in-service";
import { EarlierRuns } from "@/ui/runs/earlier-runs";
import { RunTable } from "@/ui/runs/run-table";
import { DeliveriesPart } from "./deliveries-part";
import { deliveryFacts, scheduleFacts } from "./facts";
import { SchedulesPart } from "./schedules-part";
import { seenBackfill, sourceName, truthMetrics, truthModel } from "./shown";

/** Scoring runs that are listed, the newest. */
const FEW_RUNS = 10;

const thresholdSchema = z.coerce.number().min(0).max(1);

interface PageProps {
  readonly params: Promise<{ name: string }>;
  /** A threshold that was chosen on the page of a version, for a new delivery. */
  readonly searchParams: Promise<{ threshold?: string }>;
}

export default async function DeliverPage({ params, searchParams }: PageProps) {
  const data = await deliverForPage((await params).name, FEW_RUNS);
  const { pipeline, checked, models, versions, file, deliveries, inService, truth, runs } = data;
  const facts = deliveryFacts(data, thresholdSchema.safeParse((await searchParams).threshold).data);
  const ofSchedules = scheduleFacts(data);
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
          history={data.history}
          course={data.course}
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
      <DeliveriesPart data={data} facts={facts} />
      <SchedulesPart data={data} facts={ofSchedules} />
      <AfterFirstPaint>
        <TruthView
          days={truth}
          current={facts.taken}
          models={models.map((model) => truthModel(model, deliveries, data.promises, truth))}
          inService={pipeline.inService}
          metrics={truthMetrics(file)}
        />
        {data.drift && <DriftView newest={data.drift} past={data.driftBefore} />}
        {file && (
          <OnDemandPanel
            pipeline={pipeline.name}
            disabled={!inService}
            like={sourceName(file)}
            columns={facts.columns}
            tables={data.tables.map(writeTableName)}
          />
        )}
        {deliveries.length > 0 && (
          <BackfillPanel
            pipeline={pipeline.name}
            deliveries={facts.taken}
            today={data.time.toISOString().slice(0, 10)}
            disabled={!inService && !deliveries.some(({ of }) => of === "features")}
            backfills={data.backfills.map(seenBackfill)}
          />
        )}
        {runs.length > 0 && (
          <section className="mt-8" aria-label="Scoring runs">
            <h2>Scoring runs</h2>
            <RunTable runs={runs} names={new Map([[pipeline.id, pipeline.name]])} />
            <EarlierRuns shown={runs.length} few={FEW_RUNS} />
          </section>
        )}
      </AfterFirstPaint>
    </div>
  );
}
