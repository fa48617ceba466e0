import { formatDuration } from "@/core/format/numbers";
import { describeProgress } from "@/core/format/progress";
import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { z } from "zod";
import { parseTableName } from "@/core/pipeline/table-name";
import { findTable } from "@/core/plan/catalog";
import { appContext } from "@/server/context";
import { tableHref } from "@/ui/basic/table-href";
import { layOutSql } from "@/server/sql-layout";
import { pipelineById, versionById } from "@/store/pipelines";
import { usualSteps } from "@/store/usual-steps";
import { runById, runRecord, runStatementsOf, type RunRow } from "@/store/runs";
import { workerAlive } from "@/store/workers";
import { AgainButton, CancelButton, GoOnButton } from "@/ui/basic/actions";
import { PageTitle } from "@/ui/basic/page-title";
import { Problems } from "@/ui/basic/problems";
import { StateWord } from "@/ui/basic/state-word";
import { TrainingChart } from "@/ui/charts/training-chart";
import { LiveRun } from "@/ui/runs/live-run";
import { forecastWait } from "@/runs/capacity/forecast";
import { describeAnswers } from "@/runs/on-demand-rows";
import { OnDemandRows } from "@/ui/runs/on-demand-rows";
import { RunFacts } from "@/ui/runs/run-facts";
import { RunLog } from "@/ui/runs/run-log";
import { RunWait } from "@/ui/runs/run-wait";
import { RunTimeline } from "@/ui/runs/run-timeline";
import { PipelineName } from "@/ui/basic/pipeline-name";
import { PageLink } from "@/ui/basic/page-link";

export const metadata: Metadata = { title: "Run" };

export default async function RunPage({ params }: { readonly params: Promise<{ id: string }> }) {
  const id = z.uuid().safeParse((await params).id);
  const { store, warehouse } = await appContext();
  const run = id.success ? await runById(store.db, id.data) : undefined;
  if (!run) notFound();
  const ready = run.state === "queued" && run.waitsFor === null;
  const [usual, pipeline, version, record, statements, alive, wait] = await Promise.all([
    usualSteps(store.db, run),
    pipelineById(store.db, run.pipelineId),
    versionById(store.db, run.pipelineVersionId),
    runRecord(store.db, run.id),
    runStatementsOf(store.db, run.id),
    workerAlive(store.db),
    ready ? forecastWait(store, run, new Date()) : undefined,
  ]);
  const ours = pipeline?.deletedAt === null;
  const target = run.options.onDemand && parseTableName(run.options.onDemand.into);
  const scored = target && findTable(await warehouse.catalog.read().catch(() => ({ tables: [] })), target);
  const delivered =
    run.kind === "score" && run.state === "done" && !target ? await warehouse.ledger.tablesOfRun(run.id) : [];
  const live = run.state === "running" || run.state === "queued";
  const passes = record.passes.filter(
    (pass) => pass.attempt === Math.max(...record.passes.map((other) => other.attempt)),
  );
  return (
    <div className="page pb-16">
      {live && <LiveRun run={run.id} />}
      <PageTitle
        title={
          <>
            {run.kind === "train" ? "Training" : "Scoring"}{" "}
            {pipeline && (
              <PipelineName
                className="no-underline hover:underline"
                pipeline={pipeline}
                stage={run.kind === "train" ? "train" : "deliver"}
              />
            )}
          </>
        }
        actions={
          <>
            {live && <CancelButton run={run.id} />}
            {ours && run.state === "failed" && <GoOnButton run={run.id} />}
            {ours && !live && <AgainButton run={run.id} />}
            {run.kind === "train" && run.modelId !== null && (
              <PageLink className="press press-main" href={`/models/${run.modelId}`}>
                Evaluate the model
              </PageLink>
            )}
            {delivered.map((table) => (
              <PageLink key={table} className="press press-main" href={tableHref(table) ?? "/tables"}>
                Open {table}
              </PageLink>
            ))}
          </>
        }
      >
        <span className="mr-3 font-medium" data-testid="run-state">
          <StateWord state={run.state} />
        </span>
        {run.state === "done" && run.outcome}
        {run.cancelAsked && live && "stopping …"}
      </PageTitle>
      <RunWait run={run} wait={wait} isWorkerAlive={alive} />
      {run.problems.length > 0 && (
        <div className="mb-5 border-y border-madder py-3">
          <Problems problems={run.problems} />
        </div>
      )}
      <RunFacts run={run} file={version?.number} purposes={statements.map(({ purpose }) => purpose)} />
      {run.options.onDemand &&
        (run.state === "done" ? (
          <OnDemandRows
            from={run.options.onDemand.table}
            into={scored}
            rows={run.rows ?? 0}
            answers={run.answers ? describeAnswers(run.answers) : undefined}
          />
        ) : (
          <p className="mb-5">{run.options.onDemand.table}, scored on demand.</p>
        ))}
      <div
        className={`grid items-start gap-x-12 gap-y-6 ${passes.length > 0 ? "2xl:grid-cols-[minmax(0,1fr)_30rem]" : ""}`}
      >
        {passes.length > 0 && (
          <section aria-label="Training" className="order-last min-w-0 2xl:sticky 2xl:top-4">
            <TrainingChart passes={passes} width={480} />
          </section>
        )}
        <div className="min-w-0">
          <h2 className="mb-1">Steps</h2>
          {record.steps.length === 0 ? (
            <p className="text-faded">Not started yet.</p>
          ) : (
            <RunTimeline
              usual={usual}
              now={run.state === "running" ? liveness(run) : undefined}
              steps={record.steps}
              statements={statements.map((statement) => ({ ...statement, sql: layOutSql(statement.sql) }))}
            />
          )}
          <RunLog lines={record.log} />
        </div>
      </div>
    </div>
  );
}

/** A run that says nothing for so many milliseconds is told to have been silent. */
const SILENT_MILLISECONDS = 120_000;

/** How far a running step has come, and for how long nothing has moved. */
function liveness({ progress, movedAt }: Pick<RunRow, "progress" | "movedAt">): string {
  const still = movedAt === null ? 0 : Date.now() - movedAt.getTime();
  return [
    ...(progress ? [describeProgress(progress)] : []),
    ...(still > SILENT_MILLISECONDS ? [`no progress for ${formatDuration(still)}`] : []),
  ].join("; ");
}
