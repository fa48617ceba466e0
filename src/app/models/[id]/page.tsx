import { predictionDelivery } from "@/core/pipeline/deliveries";
import { whenWarehouseAnswers } from "@/app/when-warehouse-answers";
import { partsToSee } from "@/core/evaluate/judged-part";
import { leaksAmong } from "@/core/guard/findings";
import { formatFigure } from "@/core/evaluate/figure-notes";
import { keptCurve } from "@/core/evaluate/kept-curve";
import { formatCount, formatNumber } from "@/core/format/numbers";
import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { METRICS } from "@/core/evaluate/metrics";
import { factsOf, type Algorithm } from "@/core/learn/algorithms";
import { idText } from "@/server/answer/inputs";
import { appContext } from "@/server/context";
import { learnedParts } from "@/server/learned";
import { modelView } from "@/server/model-view";
import { modelById, type ModelRow } from "@/store/models";
import type { Database } from "@/store/database";
import { newestVersion, pipelineById, versionById } from "@/store/pipelines";
import { Empty } from "@/ui/basic/empty";
import { moment } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { ServiceButton } from "@/ui/deliver/service-button";
import { BlindPart } from "@/ui/judge/blind-part";
import { ClassCurvesView } from "@/ui/judge/class-curves-view";
import { ClassReportTable } from "@/ui/judge/class-report-table";
import { ClassMatrix } from "@/ui/judge/class-matrix";
import { FigureTable } from "@/ui/judge/figure-table";
import { FigureFacts } from "@/ui/judge/figure-facts";
import { Findings } from "@/ui/judge/findings";
import { JudgedRowsView } from "@/ui/judge/judged-rows-view";
import { ResidualsView } from "@/ui/judge/residuals-view";
import { ScoreCurves } from "@/ui/judge/score-curves";
import { SegmentsView } from "@/ui/judge/segments-view";
import { ThresholdDesk } from "@/ui/judge/threshold-desk";
import { TrainingRecord } from "@/ui/judge/training-record";
import { TryRow } from "@/ui/judge/try-row";
import { Understanding } from "@/ui/judge/understanding";
import { isView, ViewLine } from "@/ui/judge/view-line";
import { PipelineName } from "@/ui/basic/pipeline-name";
import { PageLink } from "@/ui/basic/page-link";
import { parseFile } from "@/runs/parse-file";

export const metadata: Metadata = { title: "Model version" };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ view?: string }>;
}

/** One version of a model: how good, where not, for whom not, which rows, why, how made. */
export default function ModelPage(props: Props) {
  return whenWarehouseAnswers(() => modelPage(props));
}

async function modelPage({ params, searchParams }: Props) {
  const { store, warehouse } = await appContext();
  const id = idText.safeParse((await params).id);
  const model = id.success ? await modelById(store.db, id.data) : undefined;
  const pipeline = model && (await pipelineById(store.db, model.pipelineId));
  const version = model && (await versionById(store.db, model.pipelineVersionId));
  if (!model || !pipeline || !version) notFound();
  const parsed = await parseFile(version.text);
  const file = parsed.ok ? parsed.value.file : undefined;
  const { task, columns } = await modelView(warehouse, model, file);
  const { metrics, data, judgement } = model;
  const curve = keptCurve(model);
  const asked = (await searchParams).view ?? "figures";
  const view = isView(asked) ? asked : "figures";
  const parts = partsToSee(data, model.blind !== null);
  const success = file?.brief?.success;
  const reached = success && metrics[success.metric];
  const met =
    typeof reached === "number" &&
    success !== undefined &&
    (success.at_least === undefined || reached >= success.at_least) &&
    (success.at_most === undefined || reached <= success.at_most);
  const leaks = leaksAmong(judgement?.findings ?? []);
  const without = data.without ?? [];
  const title = data.algorithm ? factsOf(data.algorithm as Algorithm).title : "Logistic regression";
  const first =
    file?.roles.group ??
    columns.find((each) => ["text", "boolean"].includes(each.type))?.name ??
    columns[0]?.name ??
    "";
  return (
    <div className="page pb-16">
      <PageTitle
        title={
          <>
            <PipelineName className="no-underline hover:underline" pipeline={pipeline} stage="compare" />,
            version {model.number}
          </>
        }
        actions={
          pipeline.deletedAt === null && (
            <>
              <ServiceButton
                model={model.id}
                version={model.number}
                inService={pipeline.inService === model.id}
              />
              {pipeline.inService === model.id && (
                <PageLink
                  className="press press-main"
                  href={`/pipelines/${encodeURIComponent(pipeline.name)}/deliver`}
                >
                  Deliver
                </PageLink>
              )}
            </>
          )
        }
      >
        {model.candidate} ({title}){without.length > 0 ? `, without ${without.join(", ")}` : ""}, trained{" "}
        <span title={`Trained ${moment(model.createdAt)} (computer’s clock)`}>
          as of {moment(model.runTime)}
        </span>{" "}
        on {formatNumber(data.trainingRows)} rows that{" "}
        {model.engine === "warehouse" ? "stayed in the warehouse" : "streamed to the worker"};{" "}
        {leftOutText(data.leftOut)}
        {judgedText(model)}. <PageLink href={`/runs/${model.runId}`}>The run</PageLink>,{" "}
        {pipeline.deletedAt === null ? (
          <PageLink href={`/pipelines/${encodeURIComponent(pipeline.name)}/history`}>
            file version {version.number}
          </PageLink>
        ) : (
          <a href={`/api/models/${model.id}/file`}>file version {version.number}</a>
        )}
        . Description: <a href={`/api/models/${model.id}/description?format=html`}>a page</a>,{" "}
        <a href={`/api/models/${model.id}/description`}>Markdown</a>.
      </PageTitle>
      <ViewLine model={model.id} view={view} kind={task.kind} />
      {success && view === "figures" && (
        <p className="mb-3 text-sm">
          <span className={met && leaks.length === 0 ? "text-moss" : "text-madder"}>
            {successText(met, leaks.length)}
          </span>
          : {METRICS[success.metric].title}{" "}
          {success.at_least !== undefined ? `at least ${success.at_least}` : `at most ${success.at_most}`},
          reached {formatFigure(success.metric, reached)}.
        </p>
      )}
      {!judgement && view !== "record" && (
        <Empty title="This version was evaluated by an earlier Ravlen.">
          Its metrics are below; intervals, folds and explanations were not stored then. Retrain to get them.
        </Empty>
      )}
      {view === "figures" && (
        <div className="space-y-8">
          {judgement?.rows === 0 && (
            <Empty title="This version was not evaluated.">
              All rows were used for training, so its quality on unseen rows is unknown. Set a holdout or
              folds on Train.
            </Empty>
          )}
          {judgement && judgement.rows > 0 && (
            <FigureTable
              kind={task.kind}
              figures={judgement.figures}
              intervals={judgement.intervals}
              base={judgement.base}
              folds={judgement.folds}
              training={judgement.training?.figures}
              insideFolds={judgement.insideFolds === true}
              {...(judgement.unweighted ? { unweighted: judgement.unweighted } : {})}
            />
          )}
          {judgement && <FigureFacts task={task} judgement={judgement} weight={file?.roles.weight} />}
          {judgement && (
            <section aria-label="Guard">
              <h2 className="mb-1">Leakage guard</h2>
              <Findings
                findings={judgement.findings}
                pipeline={pipeline.name}
                candidate={model.candidate}
                without={without}
                held={judgement.rows > 0 && judgement.insideFolds !== true}
              />
            </section>
          )}
          {curve && (
            <ThresholdDesk
              curve={curve}
              training={judgement?.training?.curve}
              figures={metrics}
              threshold={(file && predictionDelivery(file.delivery)?.threshold) ?? 0.5}
              pipeline={pipeline.deletedAt === null ? pipeline.name : undefined}
              deliveries={await newestDeliveries(store.db, pipeline.id)}
            />
          )}
          {curve && <ScoreCurves curve={curve} />}
          {judgement?.matrix && task.kind === "classes" && (
            <section aria-label="Classes">
              <h2 className="mb-2">Confusion matrix</h2>
              <div className="flex flex-wrap gap-x-10 gap-y-4">
                <ClassMatrix matrix={judgement.matrix} classes={task.classes} />
                <div className="w-[520px]">
                  <ClassReportTable matrix={judgement.matrix} classes={task.classes} />
                </div>
              </div>
            </section>
          )}
          {judgement?.classCurves && task.kind === "classes" && (
            <ClassCurvesView curves={judgement.classCurves} classes={task.classes} />
          )}
          {data.blindTable !== undefined && (
            <BlindPart model={model.id} look={model.blind} kind={task.kind} />
          )}
        </div>
      )}
      {view === "errors" && (judgement?.pairs ?? judgement?.training?.pairs) && judgement && (
        <ResidualsView
          model={model.id}
          pairs={{ holdout: judgement.pairs ?? [], training: judgement.training?.pairs ?? [] }}
          parts={parts}
          insideFolds={judgement.insideFolds === true}
          skewness={judgement.skewness ?? 0}
          figures={judgement.figures}
          columns={columns.map((each) => each.name)}
        />
      )}
      {view === "segments" && judgement && columns.length > 0 && (
        <SegmentsView
          model={model.id}
          kind={task.kind}
          columns={columns.map((each) => each.name)}
          parts={parts}
          wholes={{
            holdout: judgement.figures,
            training: judgement.training?.figures ?? {},
            blind: model.blind?.figures ?? {},
          }}
          insideFolds={judgement.insideFolds === true}
          first={first}
        />
      )}
      {view === "rows" && (
        <JudgedRowsView
          model={model.id}
          pipeline={pipeline.name}
          kind={task.kind}
          columns={columns.map((each) => each.name)}
          parts={parts}
          insideFolds={judgement?.insideFolds === true}
          foreign={[
            ...(file?.holdout.by === "table" ? (["holdout"] as const) : []),
            ...(file?.holdout.blind?.table === undefined ? [] : (["blind"] as const)),
          ]}
          matters={(judgement?.importance ?? []).map((found) => found.column)}
        />
      )}
      {view === "understand" && (
        <Understanding
          version={model.id}
          model={model.model}
          judgement={judgement}
          task={task}
          expectations={file?.brief?.expectations ?? []}
        />
      )}
      {view === "try" && <TryRow model={model.id} />}
      {view === "record" && (
        <TrainingRecord
          model={model}
          judgedWith={{
            weight: file?.roles.weight !== undefined,
            group: model.judgement?.byGroup ?? false,
          }}
          learned={learnedParts(model, file)}
        />
      )}
    </div>
  );
}

/** Deliveries of the newest file, with their thresholds. */
async function newestDeliveries(db: Database, pipelineId: number) {
  const newest = await newestVersion(db, pipelineId);
  const parsed = newest && (await parseFile(newest.text));
  return parsed?.ok
    ? parsed.value.file.delivery
        .filter(({ of }) => of === "predictions")
        .map(({ name, threshold }) => ({ name, threshold }))
    : [];
}

/** How many rows did not train since their answer is on neither side. */
function leftOutText(rows: number | undefined): string {
  return rows === undefined || rows === 0
    ? ""
    : `${formatCount(rows, "row")} with other target values excluded; `;
}

/** Which rows judged a version, in a few words. */
function judgedText({ data, judgement }: ModelRow): string {
  if (judgement?.rows === 0) return "not evaluated";
  return judgement?.insideFolds
    ? `evaluated by cross-validation on ${formatNumber(data.holdoutRows)} of them`
    : `evaluated on ${formatNumber(data.holdoutRows)} held out`;
}

/** Whether the brief's measure was reached; good figures that a leak may have made count for nothing yet. */
function successText(met: boolean, leaks: number): string {
  if (!met) return "The brief’s success criterion is not met";
  return leaks > 0
    ? "The metric meets the brief’s success criterion, but the guard flagged possible leakage"
    : "The brief’s success criterion is met";
}
