import cronstrue from "cronstrue";
import Link from "next/link";
import { parsePipeline } from "@/core/pipeline/parse";
import type { PipelineFile } from "@/core/pipeline/schema";
import { writeTableName } from "@/core/pipeline/table-name";
import { readCatalog } from "@/warehouse/catalog";
import { appContext } from "@/server/context";
import { readLedger, tableHref } from "@/server/deliveries";
import { pageOf } from "@/server/stages";
import { nextSlots } from "@/runs/schedule";
import { listSchedules } from "@/store/pipelines";
import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import { measuredMetrics } from "@/core/evaluate/truth-sql";
import { backfillRuns, listBackfills } from "@/store/backfills";
import { driftOfPipeline } from "@/store/drift";
import { truthOfPipeline } from "@/store/truth";
import { serviceHistory } from "@/store/models";
import { listRuns } from "@/store/runs";
import { PauseButton, RunScheduleButton, ScoreButton, SkipButton } from "@/ui/basic/actions";
import { Empty } from "@/ui/basic/empty";
import { count, moment } from "@/ui/basic/format";
import { Problems } from "@/ui/basic/problems";
import { DriftView } from "@/ui/deliver/drift-view";
import { OnDemandPanel } from "@/ui/deliver/on-demand-panel";
import { BackfillPanel } from "@/ui/deliver/backfill-panel";
import { TruthView } from "@/ui/deliver/truth-view";
import { VersionsInService } from "@/ui/deliver/versions-in-service";
import { modeWords, rowWords } from "@/ui/deliver/delivery-words";
import { RunTable } from "@/ui/runs/run-table";

/** One route of a delivery: its table, its condition, and how many rows took it the last time. */
function RouteLine({ table, when, rows }: { readonly table: string; readonly when: string; readonly rows: number | undefined }) {
  const href = rows === undefined ? undefined : tableHref(table);
  return <span className="mb-1 block">{href ? <Link href={href}>{table}</Link> : table}<span className="block text-xs text-faded">where <code>{when}</code>{rows === undefined ? "" : `: ${count(rows)}`}</span></span>;
}

/** Where the main strand's rows come from, as people write it. */
function sourceName(file: PipelineFile): string {
  const from = file.strands.find((each) => each.name === file.rows.from)?.from;
  return from === undefined ? "its source" : typeof from === "string" ? from : "strand" in from ? `the strand ${from.strand}` : writeTableName(from);
}

/** Days of past predictions that are shown. */
const SHOWN_DAYS = 120;

/** The metric that alerts go by, and then the others. */
function truthMetrics(kind: "binary" | "classes" | "number", wished: MetricName | undefined): readonly MetricName[] {
  const measured = measuredMetrics(kind);
  return wished !== undefined && measured.includes(wished) && wished in METRICS ? [wished, ...measured.filter((each) => each !== wished)] : measured;
}

export default async function DeliverPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, checked, models, versions } = await pageOf((await params).name);
  const { store, warehouse, now } = await appContext();
  const since = new Date((await now()).getTime() - SHOWN_DAYS * 86_400_000).toISOString().slice(0, 10);
  const [catalog, truth, backfills, drift, history, schedules, ledger, runs, time] = await Promise.all([
    readCatalog(warehouse).catch(() => ({ tables: [] })), truthOfPipeline(store.db, pipeline.id, since), listBackfills(store.db, pipeline.id).then((all) => Promise.all(all.slice(0, 5).map(async (each) => ({ row: each, runs: await backfillRuns(store.db, each.id) })))),
    driftOfPipeline(store.db, pipeline.id, 90), serviceHistory(store.db, pipeline.id), listSchedules(store.db, [pipeline.id]), readLedger(warehouse, 10, pipeline.name), listRuns(store.db, { limit: 10, pipelineId: pipeline.id, kind: "score" }), now(),
  ]);
  // What is delivered is told also when a source has broken and the plan cannot be made.
  const parsed = parsePipeline(versions[0]?.text ?? "");
  const deliveries = parsed.ok ? parsed.value.file.delivery : [];
  const inService = models.find((each) => each.id === pipeline.inService);
  const edit = `/pipelines/${encodeURIComponent(pipeline.name)}/braid?file=true`;
  return (
    <div className="mx-auto max-w-6xl px-5 py-6">
      {!checked.ok && <div className="mb-6"><Problems problems={checked.problems} /></div>}
      <p className="mb-5">{inService ? <>In service: <Link href={`/models/${inService.id}`}>version {inService.number}</Link>. Scoring uses it and the file it was trained from.</> : <span className="text-madder">No version is in service, so nothing can be scored. <Link href={`/pipelines/${encodeURIComponent(pipeline.name)}/compare`}>Put one in service</Link></span>}</p>
      {models.length > 0 && <VersionsInService pipeline={pipeline.name} models={models} inService={pipeline.inService} history={history} />}
      <h2 className="mt-8">Deliveries</h2>
      {deliveries.length === 0 && <Empty title="The file has no delivery.">Add one under <code>delivery</code> in <Link href={edit}>the file</Link>: where predictions go, and how.</Empty>}
      {deliveries.length > 0 && (
        <table className="sheet mt-1">
          <thead><tr><th>Delivery</th><th>Into</th><th>How</th><th>Positive from</th><th>Last landed</th><th className="number">Rows</th><th /></tr></thead>
          <tbody>
            {deliveries.map((each) => {
              const last = ledger.find((entry) => entry.delivery === each.name);
              const href = tableHref(each.table);
              return (
                <tr key={each.name}>
                  <td className="font-medium">{each.name}</td>
                  <td>{each.routes.map((route) => <RouteLine key={route.table} table={route.table} when={route.when} rows={last?.byTable[route.table]} />)}
                    {last && href ? <Link href={href}>{each.table}</Link> : each.table}{each.routes.length > 0 && <span className="block text-xs text-faded">rows that no route takes{last?.byTable[each.table] === undefined ? "" : `: ${count(last.byTable[each.table])}`}</span>}</td>
                  <td>{modeWords(each)}<span className="block text-xs text-faded">{rowWords(each)}</span></td>
                  <td className="figure">{parsed.ok && parsed.value.file.roles.target.kind === "binary" ? each.threshold : "–"}</td>
                  <td>{last ? <Link href={`/runs/${last.run}`}>{moment(last.landedAt)}</Link> : <span className="text-faded">never</span>}</td>
                  <td className="number">{count(last?.rows)}</td>
                  <td className="text-right"><ScoreButton pipeline={pipeline.name} delivery={each.name} disabled={!inService} /></td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <h2 className="mt-8">Schedules</h2>
      {schedules.length === 0 ? <p className="text-faded">None. Add one under <code>schedules</code> in <Link href={edit}>the file</Link>.</p> : (
        <table className="sheet mt-1">
          <thead><tr><th>Schedule</th><th>Does</th><th>When</th><th>Missed times</th><th>Next (UTC)</th><th /></tr></thead>
          <tbody>
            {schedules.map((each) => (
              <tr key={each.id}>
                <td className="font-medium">{each.name}</td>
                <td>{each.run === "train" ? "train" : `score${each.delivery ? ` for ${each.delivery}` : ""}`}</td>
                <td>{each.cron !== null ? <>{cronstrue.toString(each.cron, { use24HourTimeFormat: true })}<br /><span className="text-faded"><code>{each.cron}</code> in {each.zone}</span></> : each.after !== null ? <>when <Link href={`/pipelines/${encodeURIComponent(each.after)}/deliver`}>{each.after}</Link> has delivered</> : <>when rows arrive in {each.arrival}</>}</td>
                <td>{each.cron === null ? "–" : each.missed === "skip" ? "skipped" : "caught up once"}{each.wait && <span className="block text-xs text-faded">waits up to {each.wait.until} min for {each.wait.for.map((source) => source.table).join(", ")}</span>}{each.leftOut > 0 && <span className="block text-xs text-weld">{count(each.leftOut)} left out: {each.atOnce} at once</span>}</td>
                <td>{each.paused ? <span className="text-weld">paused</span> : each.cron === null ? <span className="text-faded">it depends</span> : nextSlots(each.cron, each.zone, new Date(Math.max(time.getTime(), each.doneUntil.getTime())), 5).map((slot) => <span key={slot.toISOString()} className="figure block whitespace-nowrap">{moment(slot)}</span>)}</td>
                <td className="whitespace-nowrap text-right"><RunScheduleButton pipeline={pipeline.name} run={each.run} delivery={each.delivery} disabled={each.run === "score" && !inService} /> {each.cron !== null && !each.paused && <SkipButton schedule={each.id} />} <PauseButton schedule={each.id} paused={each.paused} /></td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <TruthView days={truth} models={models.map(({ id, number, metrics, intervals }) => ({ id, number, metrics, intervals }))} inService={pipeline.inService} metrics={parsed.ok ? truthMetrics(parsed.value.file.roles.target.kind, parsed.value.file.brief?.success?.metric) : ["accuracy"]} />
      <DriftView runs={drift} />
      {parsed.ok && <OnDemandPanel pipeline={pipeline.name} disabled={!inService} like={sourceName(parsed.value.file)} tables={catalog.tables.filter((each) => each.schema !== warehouse.config.scratchSchema).map((each) => ({ name: writeTableName(each), columns: each.columns.map((column) => column.name).filter((name) => !parsed.value.file.roles.key.includes(name)) }))} />}
      {deliveries.length > 0 && <BackfillPanel pipeline={pipeline.name} deliveries={deliveries.map((each) => each.name)} today={time.toISOString().slice(0, 10)} disabled={!inService}
        backfills={backfills.map(({ row, runs: by }) => ({ id: row.id, delivery: row.delivery, state: row.state, from: row.from.toISOString(), until: row.until.toISOString(), cron: row.cron, zone: row.zone, total: row.total, parallel: row.parallel, by: row.by, done: by.done, failed: by.failed + by.cancelled, underWay: by.queued + by.running }))} />}
      {runs.length > 0 && <section className="mt-8" aria-label="Scoring runs"><h2>Scoring runs</h2><RunTable runs={runs} names={new Map([[pipeline.id, pipeline.name]])} /></section>}
    </div>
  );
}
