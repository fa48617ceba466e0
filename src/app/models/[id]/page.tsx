import type { Metadata } from "next";
import Link from "next/link";
import { notFound } from "next/navigation";
import { parsePipeline } from "@/core/pipeline/parse";
import { isNumber } from "@/core/value-type";
import { appContext } from "@/server/context";
import { holdoutOf } from "@/server/holdout";
import { modelById } from "@/store/models";
import { pipelineById, versionById } from "@/store/pipelines";
import { ServiceButton } from "@/ui/basic/actions";
import { Empty } from "@/ui/basic/empty";
import { count, figure, METRIC_NAMES, moment, share } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { TrainingChart } from "@/ui/charts/training-chart";
import { CoefficientTable } from "@/ui/judge/coefficient-table";
import { ThresholdDesk } from "@/ui/judge/threshold-desk";
import { RowGrid } from "@/ui/tables/row-grid";

export const metadata: Metadata = { title: "Model version" };

const HOLDOUT_NAMES: Readonly<Record<string, string>> = { ravlen_target: "answer" };

export default async function ModelPage({ params }: { readonly params: Promise<{ id: string }> }) {
  const { store, warehouse } = await appContext();
  const model = await modelById(store.db, Number((await params).id) || 0);
  const pipeline = model && (await pipelineById(store.db, model.pipelineId));
  const version = model && (await versionById(store.db, model.pipelineVersionId));
  if (!model || !pipeline || !version) notFound();
  const parsed = parsePipeline(version.text);
  const holdout = await holdoutOf(warehouse, model);
  const { metrics, model: fitted, data } = model;
  const success = parsed.ok ? parsed.value.file.brief?.success : undefined;
  const reached = success && metrics[success.metric];
  const met = reached !== undefined && reached !== null && success !== undefined && (success.at_least === undefined || reached >= success.at_least) && (success.at_most === undefined || reached <= success.at_most);
  const baseRate = (metrics.positives ?? 0) / Math.max(1, metrics.rows ?? 1);
  // Predicting the base rate for every row is what a model has to beat.
  const baseLoss = -(baseRate * Math.log(Math.max(baseRate, 1e-15)) + (1 - baseRate) * Math.log(Math.max(1 - baseRate, 1e-15)));
  const figures: readonly (readonly [string, string, string])[] = [
    ["AUC", metrics.auc?.toFixed(4) ?? "–", "chance is 0.5"],
    ["Average precision", metrics.average_precision?.toFixed(4) ?? "–", `base rate ${baseRate.toFixed(4)}`],
    ["Log loss", metrics.log_loss?.toFixed(4) ?? "–", `base rate alone ${baseLoss.toFixed(4)}`],
    ["Brier", metrics.brier?.toFixed(4) ?? "–", `base rate alone ${(baseRate * (1 - baseRate)).toFixed(4)}`],
    ["Positive rows", share(metrics.positives ?? 0, metrics.rows ?? 0), `${count(metrics.positives)} of ${count(metrics.rows)} held out; in training ${share(fitted.fit.positives, fitted.fit.rows)}`],
  ];
  return (
    <div className="mx-auto max-w-[1240px] px-5 pb-16">
      <PageTitle title={<><Link className="no-underline hover:underline" href={`/pipelines/${encodeURIComponent(pipeline.name)}/compare`}>{pipeline.name}</Link>, version {model.number}</>} actions={<ServiceButton model={model.id} version={model.number} inService={pipeline.inService === model.id} />}>
        {model.candidate}, trained {moment(model.createdAt)} on {count(data.trainingRows)} rows that stayed in the warehouse; judged on {count(data.holdoutRows)} held out. <Link href={`/runs/${model.runId}`}>The run</Link>, <Link href={`/pipelines/${encodeURIComponent(pipeline.name)}/history`}>file version {version.number}</Link>.
      </PageTitle>
      <dl className="mb-6 grid grid-cols-5 gap-x-8 border-y border-rule py-3">
        {figures.map(([name, value, beside]) => <div key={name}><dt className="text-sm text-faded">{name}</dt><dd className="figure text-xl" data-testid={name}>{value}</dd><dd className="text-xs text-faded">{beside}</dd></div>)}
      </dl>
      {success && <p className="-mt-3 mb-6 text-sm"><span className={met ? "text-moss" : "text-madder"}>{met ? "The brief’s measure of success is met" : "The brief’s measure of success is not met"}</span>: {METRIC_NAMES[success.metric]} {success.at_least !== undefined ? `at least ${success.at_least}` : `at most ${success.at_most}`}, reached {figure(reached)}.</p>}
      <ThresholdDesk buckets={model.buckets} metrics={metrics} threshold={parsed.ok ? (parsed.value.file.delivery[0]?.threshold ?? 0.5) : 0.5} />
      <section className="mt-10" aria-label="Coefficients">
        <h2>Coefficients</h2>
        <p className="mb-1 text-sm text-faded">Change of the log odds for one unit of the column, all else equal. Errors from {fitted.fit.errorsFrom === "sample" ? `a sample of ${count(fitted.fit.sampleRows)} rows` : "all training rows"}{fitted.fit.ridge > 0 ? "; with a penalty they describe the penalised fit" : ""}.</p>
        <CoefficientTable rows={fitted.coefficients} />
      </section>
      <section className="mt-10" aria-label="Scored holdout">
        <h2>The scored holdout, row by row</h2>
        <p className="mb-2 text-sm text-faded">Highest probability first; any column sorts. These rows are kept with the version.</p>
        {holdout ? <RowGrid name="Scored holdout" source={`/api/models/${model.id}/holdout`} total={data.holdoutRows} columns={holdout.columns.map((each) => ({ name: HOLDOUT_NAMES[each.name] ?? each.name, type: each.declared, numeric: isNumber(each.type), ...(each.name === "probability" ? { width: 170 } : {}) }))} /> : <Empty title="The scored holdout is no longer kept." />}
      </section>
      <section className="mt-10" aria-label="Training">
        <h2>How it was trained</h2>
        <TrainingChart passes={fitted.fit.passes} />
        <p className="mt-2 text-sm">{fitted.fit.passes.length} passes; {count(fitted.fit.numbersOut)} numbers came out of the warehouse, all of them sums. Plan <code title={model.planHash}>{model.planHash.slice(0, 12)}</code>, code version {model.codeVersion}.</p>
        <ul className="mt-1 text-sm text-faded">{Object.entries(data.fingerprints).map(([name, each]) => <li key={name}>read {name}: {count(each.rows)} rows{each.changedAt ? `, last changed ${moment(each.changedAt)}` : ""}</li>)}</ul>
      </section>
    </div>
  );
}
