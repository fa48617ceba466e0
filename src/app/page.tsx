import { formatCount, formatNumber } from "@/core/format/numbers";
import { isConnectionLoss } from "@/runs/failure";
import { appContext, isOwnWarehouse } from "@/server/context";
import { DEMO_PIPELINES } from "../../demo/pipelines";
import { offeredTables } from "@/server/tables";
import { demoSetup } from "@/store/settings";
import { trainedByName } from "@/store/trained";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { AfterFirstPaint } from "@/ui/basic/after-first-paint";
import { GuideStart } from "@/ui/frame/guide-bar";
import { Beginnings } from "@/ui/today/beginnings";
import { DemoProgress } from "@/ui/today/demo-progress";
import { threadsOfSchedules } from "@/server/schedule-threads";
import { dueStates, eventStates, isOnEvent, isTimed } from "@/runs/due";
import { nextSlots, oncePerTime } from "@/core/schedule/slots";
import { listAlerts } from "@/store/alerts";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { listSchedules } from "@/store/pipelines";
import { countRuns, listRuns } from "@/store/runs";
import { workerAlive } from "@/store/workers";
import { moment } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { EarlierRuns } from "@/ui/runs/earlier-runs";
import { RunTable } from "@/ui/runs/run-table";
import { AlertList } from "@/ui/today/alert-list";
import { DueTable, type ScheduleDue } from "@/ui/today/due-table";
import { orderDue } from "@/ui/today/due-order";
import { firstFew, WHOLE_PARTS } from "@/ui/today/first-few";
import { FreshTable } from "@/ui/today/fresh-table";
import { UpcomingTable, type Upcoming } from "@/ui/today/upcoming-table";
import { PageLink } from "@/ui/basic/page-link";

/** Runs that are listed, the newest. */
const FEW_RUNS = 12;

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

export default async function TodayPage({ searchParams }: Props) {
  const asked = (await searchParams)["all"];
  const whole = WHOLE_PARTS.find((part) => part === asked);
  const context = await appContext();
  const { store, warehouse, now } = context;
  const [alerts, time, every, runs, counts, schedules, newest, alive, setup] = await Promise.all([
    listAlerts(store.db, 24),
    now(),
    listEveryPipeline(store.db),
    listRuns(store.db, { limit: FEW_RUNS }),
    countRuns(store.db, 24),
    listSchedules(store.db),
    warehouse.ledger.newestOfTables().catch((error: unknown) => {
      if (isConnectionLoss(error)) return undefined;
      throw error;
    }),
    workerAlive(store.db),
    demoSetup(store.db),
  ]);
  const demoPipelines = setup ? await trainedByName(store.db, DEMO_PIPELINES) : [];
  const main = demoPipelines.find(({ name, trained }) => name === DEMO_PIPELINES[0] && trained);
  const pipelines = every.filter(({ deletedAt }) => deletedAt === null);
  const names = new Map(every.map((pipeline) => [pipeline.id, pipeline.name]));
  const open = alerts.filter((alert) => alert.clearedAt === null);
  const on = schedules.filter(({ paused }) => !paused);
  const scoring = on.filter(({ run }) => run === "score");
  const [timed, waiting] = [scoring.filter(isTimed), scoring.filter(isOnEvent)];
  const [timedDue, waitingDue] = await Promise.all([
    dueStates(context, timed, time),
    eventStates(context, waiting),
  ]);
  const due: readonly ScheduleDue[] = [...timed, ...waiting].map((schedule, index) => ({
    schedule,
    due: [...timedDue, ...waitingDue][index],
  }));
  const shown = firstFew(orderDue(due), "due", whole);
  const threads = await threadsOfSchedules(
    shown.map(({ schedule }) => schedule),
    time,
  );
  const owed = due.filter(
    ({ due: last }) => last && last.state !== "done" && last.state !== "nothing due",
  ).length;
  const onEvent = on.filter(isOnEvent);
  const nextTime = oncePerTime((cron, zone) => nextSlots(cron, zone, time, 1)[0]!);
  const next = on
    .filter(isTimed)
    .map((schedule) => ({ schedule, at: nextTime(schedule.cron, schedule.zone) }))
    .sort((left, right) => left.at.getTime() - right.at.getTime());
  const upcoming: readonly Upcoming[] = [
    ...next,
    ...onEvent.map((schedule) => ({ schedule, at: undefined })),
  ];
  const tableCount = pipelines.length > 0 ? 0 : await countTables(warehouse);
  const { active, done } = counts;
  const headline = headlineOf({ alerts: open.length, pipelines: pipelines.length, active, owed });
  return (
    <div className="page pb-16">
      <PageTitle title={headline}>
        Today, {moment(time)}. {formatNumber(done)} runs completed in the last 24 hours.{" "}
        <PageLink href="/health">Server health</PageLink>
      </PageTitle>
      {!newest && (
        <p role="alert" className="mb-5 border-y border-madder py-2 text-madder">
          The warehouse is unreachable. Runs wait and continue when it is back.
        </p>
      )}
      {!alive && (
        <p role="alert" className="mb-5 border-y border-madder py-2 text-madder">
          No worker is running: runs wait and schedules do not start. ./ravlen start starts workers; see
          .ravlen/worker.log.
        </p>
      )}
      {setup && <DemoProgress setup={setup} pipelines={demoPipelines} />}
      {main && <GuideStart goal={{ pipeline: main.name, model: main.inService }} />}
      {alerts.length > 0 && <AlertList alerts={alerts} now={new Date()} />}
      {due.length > 0 && (
        <DueTable
          lines={shown.map((line, index) => ({ ...line, thread: threads[index]! }))}
          all={due.length}
          names={names}
          time={time}
          whole={whole}
        />
      )}
      {pipelines.length === 0 && !setup && (
        <Beginnings tables={tableCount} ownWarehouse={isOwnWarehouse(context)} />
      )}
      {pipelines.length > 0 && (
        <div className="grid gap-x-12 gap-y-8 lg:grid-cols-2">
          <FreshTable newest={newest} time={time} whole={whole} />
          <UpcomingTable upcoming={upcoming} names={names} time={time} whole={whole} />
        </div>
      )}
      {runs.length > 0 && (
        <AfterFirstPaint>
          <section className="mt-8" aria-label="Recent runs">
            <h2>Recent runs</h2>
            <RunTable runs={runs} names={names} />
            <EarlierRuns shown={runs.length} few={FEW_RUNS} />
          </section>
        </AfterFirstPaint>
      )}
    </div>
  );
}

/** What matters most, in one sentence. @param counts open alerts, pipelines, runs under way, schedules whose last time is not done */
function headlineOf({
  alerts,
  pipelines,
  active,
  owed,
}: Readonly<Record<"alerts" | "pipelines" | "active" | "owed", number>>): string {
  if (alerts > 0) return `${formatCount(alerts, "alert")} ${alerts === 1 ? "needs" : "need"} attention.`;
  if (pipelines === 0) return "Nothing is set up yet.";
  if (active > 0) return `${active} run${active === 1 ? " is" : "s are"} running; nothing has failed.`;
  return owed > 0 ? "Work is in progress." : "All scheduled deliveries are done.";
}

/** How many tables can be chosen from; none while the warehouse does not answer. */
const countTables = (warehouse: Warehouse): Promise<number> =>
  offeredTables(warehouse).then(
    ({ tables }) => tables.length,
    () => 0,
  );
