import { Fragment } from "react";
import { formatNumber } from "@/core/format/numbers";
import { isConnectionLoss } from "@/runs/failure";
import { appContext } from "@/server/context";
import { newestOfTables } from "@/server/deliveries";
import { tableHref } from "@/ui/basic/table-href";
import { dueState, eventState, isOnEvent, isTimed, type Due, type DueState } from "@/runs/due";
import { nextSlots } from "@/core/schedule/slots";
import { listAlerts } from "@/store/alerts";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { listSchedules, type ScheduleRow } from "@/store/pipelines";
import { countRuns, listRuns } from "@/store/runs";
import { workerAlive } from "@/store/workers";
import { Empty } from "@/ui/basic/empty";
import { ago, moment } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { EarlierRuns } from "@/ui/runs/earlier-runs";
import { RunTable } from "@/ui/runs/run-table";

import { AlertList } from "@/ui/today/alert-list";
import { PageLink } from "@/ui/basic/page-link";

/** Runs that are listed, the newest. */
const FEW_RUNS = 12;
const DUE_TONE: Readonly<Record<DueState, string>> = {
  done: "text-moss",
  "under way": "text-woad",
  failed: "text-madder",
  waiting: "text-weld",
  "nothing due": "text-faded",
};

/** What a schedule without times waits for. */
const eventWords = ({ arrival, after }: ScheduleRow): string =>
  arrival === null ? `when ${after ?? "another pipeline"} has delivered` : `when rows arrive in ${arrival}`;

/** When a schedule was due last, and how that stands; of one that runs on an event, whether there was any. */
function DueCells({
  schedule,
  due,
  time,
}: {
  readonly schedule: ScheduleRow;
  readonly due: Due | undefined;
  readonly time: Date;
}) {
  if (!due)
    return (
      <>
        <td className="text-faded">{eventWords(schedule)}</td>
        <td className="text-faded">nothing yet</td>
      </>
    );
  const { slot, state, run } = due;
  return (
    <>
      <td>
        <span className="whitespace-nowrap">
          {ago(slot, time)} <span className="text-faded">{moment(slot)}</span>
        </span>
        {isOnEvent(schedule) && <span className="block text-xs text-faded">{eventWords(schedule)}</span>}
      </td>
      <td className={DUE_TONE[state]}>
        {run ? (
          <PageLink className={DUE_TONE[state]} href={`/runs/${run.id}`}>
            {state}
          </PageLink>
        ) : (
          state
        )}
      </td>
    </>
  );
}

export default async function TodayPage() {
  const context = await appContext();
  const { store, warehouse, now } = context;
  const [alerts, time, every, runs, counts, schedules, newest, alive] = await Promise.all([
    listAlerts(store.db, 24),
    now(),
    listEveryPipeline(store.db),
    listRuns(store.db, { limit: FEW_RUNS }),
    countRuns(store.db, 24),
    listSchedules(store.db),
    newestOfTables(warehouse).catch((error: unknown) => {
      if (isConnectionLoss(error)) return undefined;
      throw error;
    }),
    workerAlive(store.db),
  ]);
  const tables = newest ?? [];
  const pipelines = every.filter(({ deletedAt }) => deletedAt === null);
  const names = new Map(every.map((pipeline) => [pipeline.id, pipeline.name]));
  const open = alerts.filter((alert) => alert.clearedAt === null);
  const on = schedules.filter(({ paused }) => !paused);
  const scoring = on.filter(({ run }) => run === "score");
  const due = await Promise.all([
    ...scoring
      .filter(isTimed)
      .map(async (schedule) => ({ schedule, due: await dueState(context, schedule, time) })),
    ...scoring
      .filter(isOnEvent)
      .map(async (schedule) => ({ schedule, due: await eventState(context, schedule) })),
  ]);
  const owed = due.filter(
    ({ due: last }) => last && last.state !== "done" && last.state !== "nothing due",
  ).length;
  const onEvent = on.filter(isOnEvent);
  const next = on
    .filter(isTimed)
    .map((schedule) => ({ schedule, at: nextSlots(schedule.cron, schedule.zone, time, 1)[0]! }))
    .sort((left, right) => left.at.getTime() - right.at.getTime());
  const { active, done } = counts;
  const headline =
    open.length > 0
      ? `${open.length} matter${open.length === 1 ? "" : "s"} need${open.length === 1 ? "s" : ""} somebody.`
      : pipelines.length === 0
        ? "Nothing is set up yet."
        : active > 0
          ? `${active} run${active === 1 ? " is" : "s are"} under way; nothing has failed.`
          : owed > 0
            ? "Something is still to come."
            : "Everything that was due is delivered.";
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle title={headline}>
        Today, {moment(time)}. {formatNumber(done)} runs done in the last 24 hours.{" "}
        <PageLink href="/health">Health of the server</PageLink>
      </PageTitle>
      {!newest && (
        <p role="alert" className="mb-5 border-y border-madder py-2 text-madder">
          The warehouse does not answer. Runs wait, and go on when it is back.
        </p>
      )}
      {!alive && (
        <p role="alert" className="mb-5 border-y border-madder py-2 text-madder">
          No worker has been seen for a while: runs wait and schedules do not start. It is started by ./ravlen
          start; look into .ravlen/worker.log.
        </p>
      )}
      {alerts.length > 0 && <AlertList alerts={alerts} now={new Date()} />}
      {due.length > 0 && (
        <section aria-label="Due" className="mb-8">
          <h2>Whether what was due is done</h2>
          <table className="sheet mt-1" data-testid="due">
            <thead>
              <tr>
                <th>Schedule</th>
                <th>Pipeline</th>
                <th>Was due</th>
                <th>How it stands</th>
              </tr>
            </thead>
            <tbody>
              {due.map(({ schedule, due: last }) => (
                <tr key={schedule.id}>
                  <td className="font-medium">{schedule.name}</td>
                  <td>
                    <DeliverLink pipeline={names.get(schedule.pipelineId) ?? ""} />
                  </td>
                  <DueCells schedule={schedule} due={last} time={time} />
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {pipelines.length === 0 && (
        <Empty title="Begin with a pipeline.">
          <PageLink href="/tables">Look at the tables</PageLink>, then write a{" "}
          <PageLink href="/pipelines/new">new pipeline</PageLink>, or save a file with{" "}
          <code>./ravlen save FILE</code>.
        </Empty>
      )}
      {pipelines.length > 0 && (
        <div className="grid gap-x-12 gap-y-8 lg:grid-cols-2">
          <section aria-label="Prediction tables">
            <h2>How fresh predictions are</h2>
            {tables.length === 0 ? (
              <p className="mt-1 text-faded">
                {newest
                  ? "Nothing has been delivered yet. Put a version in service and score."
                  : "Not known while the warehouse does not answer."}
              </p>
            ) : (
              <table className="sheet mt-1">
                <thead>
                  <tr>
                    <th>Table</th>
                    <th>As of</th>
                    <th>Landed</th>
                    <th className="number">Rows</th>
                  </tr>
                </thead>
                <tbody>
                  {tables.map((entry) => (
                    <tr key={entry.table}>
                      <td className="wrap-anywhere">
                        <PageLink className="font-medium" href={tableHref(entry.table) ?? "/tables"}>
                          <BreakableName name={entry.table} />
                        </PageLink>
                        <br />
                        <span className="text-faded">
                          {entry.pipeline}
                          {entry.modelVersion > 0 && `, version ${entry.modelVersion}`}
                        </span>
                      </td>
                      <td className="whitespace-nowrap">
                        {ago(entry.runTime, time)}
                        <br />
                        <span className="text-faded">{moment(entry.runTime)}</span>
                      </td>
                      <td>
                        <PageLink href={`/runs/${entry.run}`}>{ago(entry.landedAt, new Date())}</PageLink>
                      </td>
                      <td className="number">{formatNumber(entry.rows)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
          </section>
          <section aria-label="Next">
            <h2>What is next</h2>
            {next.length + onEvent.length === 0 ? (
              <p className="mt-1 text-faded">No schedule is on.</p>
            ) : (
              <table className="sheet mt-1">
                <thead>
                  <tr>
                    <th>When</th>
                    <th>Schedule</th>
                    <th>Pipeline</th>
                  </tr>
                </thead>
                <tbody>
                  {[...next, ...onEvent.map((schedule) => ({ schedule, at: undefined }))].map(
                    ({ schedule, at }) => (
                      <tr key={schedule.id}>
                        <td className={at ? "whitespace-nowrap" : ""}>
                          {at ? (
                            <>
                              {ago(at, time)}
                              <br />
                              <span className="text-faded">{moment(at)}</span>
                            </>
                          ) : (
                            eventWords(schedule)
                          )}
                        </td>
                        <td className="font-medium">
                          {schedule.name}
                          <br />
                          <span className="font-normal text-faded">{schedule.run}</span>
                        </td>
                        <td className="wrap-anywhere">
                          <DeliverLink pipeline={names.get(schedule.pipelineId) ?? ""} />
                        </td>
                      </tr>
                    ),
                  )}
                </tbody>
              </table>
            )}
          </section>
        </div>
      )}
      {runs.length > 0 && (
        <section className="mt-8" aria-label="Recent runs">
          <h2>What ran</h2>
          <RunTable runs={runs} names={names} />
          <EarlierRuns shown={runs.length} few={FEW_RUNS} />
        </section>
      )}
    </div>
  );
}

function DeliverLink({ pipeline }: { readonly pipeline: string }) {
  return <PageLink href={`/pipelines/${encodeURIComponent(pipeline)}/deliver`}>{pipeline}</PageLink>;
}

/** A table's name that breaks between its words before it breaks inside one. */
function BreakableName({ name }: { readonly name: string }) {
  return name.split(/(?<=[._])/).map((word, index) => (
    <Fragment key={index}>
      {word}
      <wbr />
    </Fragment>
  ));
}
