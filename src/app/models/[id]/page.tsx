import { whenWarehouseAnswers } from "@/app/when-warehouse-answers";
import { partsToSee } from "@/core/evaluate/judged-part";
import { leaksAmong } from "@/core/guard/findings";
import { formatFigure } from "@/core/evaluate/figure-notes";
import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { METRICS } from "@/core/evaluate/metrics";
import { idText } from "@/server/answer/inputs";
import { appContext } from "@/server/context";
import { learnedParts } from "@/server/learned";
import { modelView } from "@/server/model-view";
import { modelById } from "@/store/models";
import type { Database } from "@/store/database";
import { newestVersion, pipelineById, versionById } from "@/store/pipelines";
import { Empty } from "@/ui/basic/empty";
import { JudgedRowsView } from "@/ui/judge/judged-rows-view";
import { ResidualsView } from "@/ui/judge/residuals-view";
import { SegmentsView } from "@/ui/judge/segments-view";
import { TrainingRecord } from "@/ui/judge/training-record";
import { TryRow } from "@/ui/judge/try-row";
import { Understanding } from "@/ui/judge/understanding";
import { MetricsView } from "./metrics-view";
import { VersionTitle } from "./version-title";
import { isView, ViewLine } from "@/ui/judge/view-line";
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
  const first =
    file?.roles.group ??
    columns.find((column) => ["text", "boolean"].includes(column.type))?.name ??
    columns[0]?.name ??
    "";
  return (
    <div className="page pb-16">
      <VersionTitle model={model} pipeline={pipeline} file={version.number} />
      <ViewLine model={model.id} view={view} kind={task.kind} />
      {success && view === "figures" && (
        <p className="mb-3 text-caption">
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
        <MetricsView
          model={model}
          pipeline={pipeline}
          task={task}
          file={file}
          deliveries={await newestDeliveries(store.db, pipeline.id)}
        />
      )}
      {view === "errors" && (judgement?.pairs ?? judgement?.training?.pairs) && judgement && (
        <ResidualsView
          model={model.id}
          pairs={{ holdout: judgement.pairs ?? [], training: judgement.training?.pairs ?? [] }}
          parts={parts}
          insideFolds={judgement.insideFolds === true}
          skewness={judgement.skewness ?? 0}
          figures={judgement.figures}
          columns={columns.map((column) => column.name)}
        />
      )}
      {view === "segments" && judgement && columns.length > 0 && (
        <SegmentsView
          model={model.id}
          kind={task.kind}
          columns={columns.map((column) => column.name)}
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
          columns={columns.map((column) => column.name)}
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

/** Whether the brief's measure was reached; good figures that a leak may have made count for nothing yet. */
function successText(met: boolean, leaks: number): string {
  if (!met) return "The brief’s success criterion is not met";
  return leaks > 0
    ? "The metric meets the brief’s success criterion, but the guard flagged possible leakage"
    : "The brief’s success criterion is met";
}
