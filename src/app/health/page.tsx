import { formatBytes, formatDuration, formatNumber } from "@/core/format/numbers";
import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { readHealth } from "@/server/health";
import { LEASE_SECONDS } from "@/store/runs";
import { listMessages } from "@/store/outbox";
import { readCleaned, readKeeping, readNotify } from "@/store/settings";
import { moment } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { NotifyForm } from "@/ui/health/notify-form";
import { OutboxList } from "@/ui/health/outbox-list";
import { KeepingForm } from "@/ui/health/keeping-form";

export const metadata: Metadata = { title: "Health" };
/** Messages that are listed, the newest. */
const MOST_MESSAGES = 200;

export const dynamic = "force-dynamic";

const answer = (milliseconds: number | undefined) =>
  milliseconds === undefined ? (
    <span className="text-madder">unreachable</span>
  ) : (
    <>
      responds in <span className="figure">{formatDuration(milliseconds)}</span>
    </>
  );

export default async function HealthPage() {
  const { wrong, store, storeMilliseconds, readerMilliseconds, writerMilliseconds, scratchTables } =
    await readHealth(await appContext());
  const { db } = (await appContext()).store;
  const [keeping, cleaned, notify, messages] = await Promise.all([
    readKeeping(db),
    readCleaned(db),
    readNotify(db),
    listMessages(db, MOST_MESSAGES),
  ]).catch(() => [undefined, undefined, undefined, []] as const);
  const waiting = (store?.runs ?? []).filter((run) => run.state === "queued" || run.state === "running");
  const alive = (store?.workers ?? []).filter((worker) => worker.silentSeconds < LEASE_SECONDS);
  const gone = (store?.workers.length ?? 0) - alive.length;
  return (
    <div className="page pb-16">
      <PageTitle title={wrong.length === 0 ? "Healthy" : "Unhealthy"}>
        For operators. As metrics: <a href="/api/metrics">/api/metrics</a> in the OpenMetrics format, and{" "}
        <a href="/api/health">/api/health</a>, which returns 200 or 503.
      </PageTitle>
      {wrong.map((row) => (
        <p key={row} role="alert" className="mb-3 border-y border-madder py-2 text-madder">
          {row}
        </p>
      ))}
      <dl
        className="grid max-w-3xl grid-cols-[max-content_1fr] gap-x-8 gap-y-2 text-caption"
        data-testid="health"
      >
        <dt className="text-faded">Application database</dt>
        <dd>
          {answer(storeMilliseconds)}
          {store && (
            <>
              , <span className="figure">{formatBytes(store.bytes)}</span>
            </>
          )}
        </dd>
        <dt className="text-faded">Warehouse, reader</dt>
        <dd>{answer(readerMilliseconds)}</dd>
        <dt className="text-faded">Warehouse, writer</dt>
        <dd>{answer(writerMilliseconds)}</dd>
        <dt className="text-faded">Workers</dt>
        <dd>
          {alive.length === 0 ? (
            <span className="text-madder">none</span>
          ) : (
            <ul>
              {alive.map((worker) => (
                <li key={worker.name}>
                  <code>{worker.name}</code> seen{" "}
                  <span className="figure">{formatDuration(worker.silentSeconds * 1000)}</span> ago, up for{" "}
                  <span className="figure">{formatDuration(worker.upSeconds * 1000)}</span>
                  {!worker.takesLarge && ", small runs only"}
                </li>
              ))}
            </ul>
          )}
          {gone > 0 && <span className="text-faded">{gone} more stopped in the last hour</span>}
        </dd>
        <dt className="text-faded">Running</dt>
        <dd>
          {waiting.length === 0
            ? "no runs waiting or running"
            : waiting
                .map(
                  (run) =>
                    `${run.count} ${run.state}: ${run.kind === "train" ? "training" : "scoring"} ${run.pipeline}`,
                )
                .join("; ")}
          {store && store.oldestWaiting > 0 && (
            <>
              ; oldest waiting <span className="figure">{formatDuration(store.oldestWaiting * 1000)}</span>
            </>
          )}
        </dd>
        <dt className="text-faded">Scratch tables of runs</dt>
        <dd>{scratchTables === undefined ? "–" : formatNumber(scratchTables)}</dd>
        <dt className="text-faded">Retention</dt>
        <dd>
          {keeping ? <KeepingForm keeping={keeping} /> : "–"}
          {cleaned && (
            <span className="mt-1 block text-faded">
              Last cleaned <span className="real-time">{moment(cleaned.at)}</span>: records of{" "}
              {formatNumber(cleaned.runs)} runs and {formatNumber(cleaned.tables)} scratch tables deleted.
            </span>
          )}
        </dd>
        <dt className="text-faded">Open alerts</dt>
        <dd>
          {(store?.alerts ?? []).length === 0
            ? "none"
            : store!.alerts.map((alert) => `${alert.count} ${alert.kind}`).join(", ")}
        </dd>
      </dl>
      {notify && (
        <section aria-label="Alert notifications" className="mt-8">
          <h2>Alert notifications</h2>
          <p className="text-caption text-faded">
            Sent when an alert opens and when it clears. Alerts are also listed on Today.
          </p>
          <NotifyForm notify={notify} />
        </section>
      )}
      <section aria-label="Outbox" className="mt-8">
        <h2>Outbox</h2>
        <p className="text-caption text-faded">
          Notifications and files sent to other systems. Failed messages are retried with increasing delays.
        </p>
        <OutboxList messages={[...messages]} />
        {messages.length === MOST_MESSAGES && (
          <p className="text-caption text-faded">Only the latest {MOST_MESSAGES} messages are shown.</p>
        )}
      </section>
    </div>
  );
}
