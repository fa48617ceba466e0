import Link from "next/link";
import { appContext } from "@/server/context";
import { readLedger, tableHref } from "@/server/deliveries";
import { nextSlots } from "@/runs/schedule";
import { listPipelines, listSchedules } from "@/store/pipelines";
import { listRuns, workerAlive } from "@/store/runs";
import { AgainButton } from "@/ui/basic/actions";
import { Empty } from "@/ui/basic/empty";
import { ago, count, moment } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { Problems } from "@/ui/basic/problems";
import { RunTable } from "@/ui/runs/run-table";

const DAY = 86_400_000;

export default async function TodayPage() {
  const { store, warehouse, now } = await appContext();
  const [time, pipelines, runs, schedules, ledger, alive] = await Promise.all([now(), listPipelines(store.db), listRuns(store.db, { limit: 60 }), listSchedules(store.db), readLedger(warehouse, 60), workerAlive(store.db)]);
  const names = new Map(pipelines.map((each) => [each.id, each.name]));
  const recent = runs.filter((run) => Date.now() - run.createdAt.getTime() < DAY);
  // A failure matters until the same work has succeeded.
  const failed = recent.filter((run) => run.state === "failed" && !runs.some((other) => other.state === "done" && other.kind === run.kind && other.pipelineId === run.pipelineId && other.createdAt > run.createdAt));
  const next = schedules.filter((each) => !each.paused).map((each) => ({ schedule: each, at: nextSlots(each.cron, each.zone, time, 1)[0]! })).sort((left, right) => left.at.getTime() - right.at.getTime());
  const tables = [...new Set(ledger.map((entry) => entry.table))].map((table) => ledger.find((entry) => entry.table === table)!);
  const active = recent.filter((run) => run.state === "running" || run.state === "queued").length;
  const headline = failed.length > 0 ? `${failed.length} run${failed.length === 1 ? "" : "s"} failed and need${failed.length === 1 ? "s" : ""} you.` : pipelines.length === 0 ? "Nothing is set up yet." : active > 0 ? `${active} run${active === 1 ? " is" : "s are"} under way; nothing has failed.` : "Nothing needs you.";
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle title={headline}>Today, {moment(time)}. {recent.filter((run) => run.state === "done").length} runs done in the last 24 hours.</PageTitle>
      {!alive && <p role="alert" className="mb-5 border-y border-madder py-2 text-madder">No worker has been seen for a while: runs wait and schedules do not start. It is started by ./ravlen start; look into .ravlen/worker.log.</p>}
      {failed.length > 0 && (
        <section aria-label="Failed" className="mb-8">
          <h2>What failed, and why</h2>
          {failed.map((run) => (
            <div key={run.id} className="flex items-start justify-between gap-6 border-b border-weft py-2">
              <div className="min-w-0"><Link className="font-medium" href={`/runs/${run.id}`}>{run.kind === "train" ? "training" : "scoring"} {names.get(run.pipelineId)}</Link> <span className="text-faded">{ago(run.createdAt, new Date())}</span><div className="mt-1"><Problems problems={run.problems} /></div></div>
              <AgainButton run={run.id} />
            </div>
          ))}
        </section>
      )}
      {pipelines.length === 0 && <Empty title="Begin with a pipeline."><Link href="/tables">Look at the tables</Link>, then write a <Link href="/pipelines/new">new pipeline</Link>, or save a file with <code>./ravlen save FILE</code>.</Empty>}
      {pipelines.length > 0 && <div className="grid gap-x-12 gap-y-8 lg:grid-cols-2">
        <section aria-label="Prediction tables">
          <h2>How fresh predictions are</h2>
          {tables.length === 0 ? <p className="mt-1 text-faded">Nothing has been delivered yet. Put a version in service and score.</p> : (
            <table className="sheet mt-1">
              <thead><tr><th>Table</th><th>As of</th><th>Landed</th><th className="number">Rows</th></tr></thead>
              <tbody>{tables.map((entry) => <tr key={entry.table}><td className="break-words"><Link className="font-medium" href={tableHref(entry.table) ?? "/tables"}>{entry.table}</Link><br /><span className="text-faded">{entry.pipeline}, version {entry.modelVersion}</span></td><td className="whitespace-nowrap">{ago(entry.runTime, time)}<br /><span className="text-faded">{moment(entry.runTime)}</span></td><td><Link href={`/runs/${entry.run}`}>{ago(entry.landedAt, new Date())}</Link></td><td className="number">{count(entry.rows)}</td></tr>)}</tbody>
            </table>
          )}
        </section>
        <section aria-label="Next">
          <h2>What is next</h2>
          {next.length === 0 ? <p className="mt-1 text-faded">No schedule is on.</p> : (
            <table className="sheet mt-1">
              <thead><tr><th>When</th><th>Schedule</th><th>Pipeline</th></tr></thead>
              <tbody>{next.slice(0, 8).map(({ schedule, at }) => <tr key={schedule.id}><td className="whitespace-nowrap">{ago(at, time)}<br /><span className="text-faded">{moment(at)}</span></td><td className="font-medium">{schedule.name}<br /><span className="font-normal text-faded">{schedule.run === "train" ? "train" : "score"}</span></td><td><Link href={`/pipelines/${encodeURIComponent(names.get(schedule.pipelineId) ?? "")}/deliver`}>{names.get(schedule.pipelineId)}</Link></td></tr>)}</tbody>
            </table>
          )}
        </section>
      </div>}
      {runs.length > 0 && <section className="mt-8" aria-label="Recent runs"><h2>What ran</h2><RunTable runs={runs.slice(0, 12)} names={names} /></section>}
    </div>
  );
}
