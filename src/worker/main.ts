import { hostname } from "node:os";
import { setTimeout } from "node:timers/promises";
import pino from "pino";
import { watchLateness } from "@/runs/alerts";
import { cleanUp } from "@/runs/cleaning";
import { openContext, readInstance } from "@/runs/context";
import { executeRun } from "@/runs/execute";
import { sizeUp } from "@/runs/capacity/size-up";
import { openQueue, sendImport, sendRun, workOnNextRun, type RunTaker } from "@/runs/queue";
import { MessageSender } from "@/runs/message-sender";
import { tellOfAlerts } from "@/runs/outbox";
import { reconcileFunctions } from "@/runs/reconcile";
import { startDueRuns, waitsForRows } from "@/runs/schedule";
import { watchWaiting } from "@/runs/waiting";
import { advanceBackfills } from "@/runs/backfill";
import { takeDueProfiles } from "@/runs/tables/profiles";
import { failSilentImports, failThoseBehind, waitingImports } from "@/store/imports";
import { noteClock, warehouseMark } from "@/store/settings";
import { abandonedRuns, waitingRuns } from "@/store/runs";
import { noteWorker } from "@/store/workers";
import { runAsChild } from "./child-process";
import { Duties } from "./duties";
import { WarehouseWatch } from "./warehouse-watch";

const log = pino({ name: "ravlen worker", level: process.env["RAVLEN_LOG"] ?? "info" });
const TICK_MILLISECONDS = 2000;
const POLL_MILLISECONDS = 500;
const CLEAN_MILLISECONDS = 3_600_000;
const RECONCILE_MILLISECONDS = 60_000;

/** Takes one run after the other, until the worker is to leave. */
async function takeRuns(next: () => Promise<boolean>, leaving: () => boolean): Promise<void> {
  while (!leaving()) {
    const found = await next().catch((error: unknown) => {
      log.warn({ error: String(error) }, "no run could be claimed");
      return false;
    });
    if (!found) await setTimeout(POLL_MILLISECONDS);
  }
}

/** The worker process: does queued runs, starts scheduled ones, takes up abandoned ones. */
async function main(): Promise<void> {
  const instance = readInstance();
  if (!instance) throw new Error("Ravlen is not running here.");
  const name = `${hostname()}/${process.pid}`;
  const takesLarge = process.env["RAVLEN_WORKER_TAKES"] !== "small";
  const context = await openContext(instance);
  const boss = await openQueue(instance.databaseUrl, "worker", (error) =>
    log.warn({ error: error.message }, "queue"),
  );
  const taker: RunTaker = {
    takesLarge,
    sizeUp: (run) => sizeUp(context, run),
    work: async (runId) => {
      await executeRun(context, runId, name);
      // The next time of a backfill need not wait for the next look.
      await advanceBackfills(context, boss);
    },
  };
  const { db } = context.store;
  const watch = new WarehouseWatch(db, await warehouseMark(db));
  void takeRuns(
    () => workOnNextRun(context, boss, taker),
    () => watch.changed,
  ).then(() => process.exit(0));
  const duties = new Duties();
  const messages = new MessageSender(context);
  const often: readonly (readonly [what: string, work: () => Promise<unknown>])[] = [
    ["start due runs", () => startDueRuns(context, boss, (schedule) => !waitsForRows(schedule))],
    ["check for arrived rows", () => startDueRuns(context, boss, waitsForRows)],
    ["release runs waiting for sources", () => watchWaiting(context, boss)],
    ["continue backfills", () => advanceBackfills(context, boss)],
    ["check for late runs", () => watchLateness(context)],
    [
      "resume abandoned runs",
      async () => {
        for (const run of [...(await abandonedRuns(db)), ...(await waitingRuns(db))])
          await sendRun(boss, run);
      },
    ],
    ["send alerts", () => tellOfAlerts(context)],
    ["send messages", () => messages.look()],
    [
      "start imports",
      async () => {
        await failSilentImports(db);
        await failThoseBehind(db);
        for (const id of await waitingImports(db)) await sendImport(boss, id);
      },
    ],
    ["refresh table profiles", () => takeDueProfiles(context)],
  ];
  void duties.start({
    what: "check the connected warehouse",
    work: () => watch.look(),
    milliseconds: TICK_MILLISECONDS,
  });
  for (const [what, work] of often) void duties.start({ what, work, milliseconds: TICK_MILLISECONDS });
  void duties.start({
    what: "compare functions with the version in service",
    work: () => reconcileFunctions(context),
    milliseconds: RECONCILE_MILLISECONDS,
  });
  void duties.start({ what: "clean up", work: () => cleanUp(context), milliseconds: CLEAN_MILLISECONDS });
  await duties.start({
    what: "send the heartbeat",
    work: async () => {
      await noteWorker(db, { name, takesLarge, trouble: duties.trouble });
      await noteClock(db, new Date());
    },
    milliseconds: TICK_MILLISECONDS,
  });
  log.info({ worker: name }, "ready");
}

runAsChild(log, main);
