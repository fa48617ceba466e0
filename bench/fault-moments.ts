import net from "node:net";
import { formatNumber } from "@/core/format/numbers";
import { unwrap } from "@/core/problem";
import { orderBackfill } from "@/runs/backfill";
import { putInService, retire } from "@/runs/service";
import { addMessages } from "@/store/outbox";
import { findPipeline } from "@/store/pipelines";
import { listModels, modelById, setRetired } from "@/store/models";
import { runById } from "@/store/runs";
import { labFile } from "../testing/lab";
import { pause, until, type TestInstallation } from "../testing/installation";
import { Way } from "../testing/way";
import type { FaultSuite } from "./fault-suite";

/** Steps of a delivery in which a worker stands still or the warehouse falls silent. */
const MOMENTS = [
  "score into a staged table",
  "check the staged rows",
  "move them into the prediction table",
] as const;
const STILL_MILLISECONDS = 6000;
/** A server counts as silent after some ten seconds of waiting and two questions without an answer. */
const SILENT_MILLISECONDS = 40_000;
const TWINS = 10;
const TRIES = 60;
const MESSAGES = 20;
const MOST_LATE_SECONDS = 15;

/** A worker stands still for longer than its claim lasts, another takes its run up, and then it goes on as if nothing had been. */
export async function stoodStill(place: TestInstallation, suite: FaultSuite): Promise<void> {
  for (const step of MOMENTS) {
    const worker = await place.startWorker();
    const run = await place.order("score", suite.later());
    await place.atStep(run, step, 3).catch(() => undefined);
    worker.kill("SIGSTOP");
    await place.lapse();
    const next = await place.startWorker();
    await pause(STILL_MILLISECONDS);
    worker.kill("SIGCONT");
    await place.ended(run);
    await pause(STILL_MILLISECONDS);
    for (const one of [worker, next]) await place.kill(one);
    await suite.audit(`worker stood still: ${step}`, run);
  }
}

/** The way to the warehouse falls silent while a run is under way: no connection ends, and nothing comes through. */
export async function fellSilent(place: TestInstallation, suite: FaultSuite): Promise<void> {
  const way = new Way(place.context.warehouse.config.reader.port);
  const port = await way.open();
  try {
    await place.reachWarehouseAt(port);
    const worker = await place.startWorker();
    for (const step of MOMENTS) {
      const run = await place.order("score", suite.later());
      await place.atStep(run, step, 3).catch(() => undefined);
      way.fallSilent();
      await pause(SILENT_MILLISECONDS);
      const waited = await runById(place.context.store.db, run);
      way.speak();
      await place.ended(run);
      // A run that had ended before the silence has nothing to wait for.
      const told = waited?.state === "done" || waited?.waitsFor?.includes("does not answer") === true;
      await suite.audit(`warehouse silent for ${SILENT_MILLISECONDS / 1000} s: ${step}`, run, { held: told });
    }
    await place.kill(worker);
  } finally {
    await place.reachWarehouseAt(place.context.warehouse.config.reader.port);
    way.close();
  }
}

/** The same is ordered many times at once: one run and one catch-up come of it. */
export async function orderedTogether(place: TestInstallation, suite: FaultSuite): Promise<void> {
  const workers = await Promise.all([place.startWorker(), place.startWorker()]);
  const time = suite.later();
  const many = <T>(order: () => Promise<T>): Promise<readonly T[]> =>
    Promise.all(Array.from({ length: TWINS }, order));
  const runs = new Set(await many(() => place.order("score", time)));
  for (const run of runs) await place.ended(run);
  const range = { from: new Date(suite.later()), until: new Date(suite.later()) };
  const backfills = new Set(
    (
      await many(async () =>
        unwrap(await orderBackfill(place.context, { pipeline: "lab", cron: "0 * * * *", ...range })),
      )
    ).map((backfill) => backfill.id),
  );
  const { pool } = place.context.store;
  const last = await until("the end of the catch-up", async () => {
    const { rows } = await pool.query<{ id: string; state: string }>(
      "SELECT id, state FROM runs WHERE backfill_id = ANY($1) ORDER BY run_time",
      [[...backfills]],
    );
    return rows.length > 0 && rows.every((row) => row.state === "done") && rows.at(-1)!.id;
  });
  for (const worker of workers) await place.kill(worker);
  await suite.audit(
    `the same ordered ${TWINS} times at once: ${runs.size} run, ${backfills.size} backfill`,
    last,
    { held: runs.size === 1 && backfills.size === 1 },
  );
}

/** A version is put in service and retired at the same moment, many times: it is never both. */
export async function servedAndRetired(place: TestInstallation, suite: FaultSuite): Promise<void> {
  const { context } = place;
  const { db } = context.store;
  const trainer = await place.startWorker();
  await place.ended(await place.order("train", suite.later()));
  await place.kill(trainer);
  const pipeline = (await findPipeline(db, "lab"))!;
  const [newest, before] = await listModels(db, pipeline.id);
  let both = 0;
  for (let time = 0; time < TRIES; time += 1) {
    await setRetired(db, newest!.id, null);
    await putInService(context, before!.id, {});
    await Promise.allSettled([putInService(context, newest!.id, {}), retire(context, newest!.id)]);
    const { inService } = (await findPipeline(db, "lab"))!;
    const retired = (await modelById(db, newest!.id))!.retiredAt !== null;
    if (retired === (inService === newest!.id)) both += 1;
  }
  await setRetired(db, newest!.id, null);
  await putInService(context, newest!.id, {});
  const worker = await place.startWorker();
  const run = await place.order("score", suite.later());
  await place.ended(run);
  await place.kill(worker);
  await suite.audit(`put in service and retired at the same moment: ${both} of ${TRIES} times both`, run, {
    held: both === 0,
  });
}

/** Writes that were rolled back, and maintenance, while a delivery waits for an arrival; then a load of three statements. */
export async function arrivedNever(place: TestInstallation, suite: FaultSuite): Promise<void> {
  await place.sql("CREATE TABLE lab.inbox AS SELECT n FROM generate_series(1, 500) n");
  await place.save(
    labFile({
      more: "schedules: [{name: arrived, run: score, arrival: lab.inbox, quiet_for: 1}]",
    }),
  );
  const worker = await place.startWorker();
  const started = async () =>
    (
      await place.context.store.pool.query<{ id: string; state: string }>(
        "SELECT id, state FROM runs WHERE slot LIKE '%arrived%' ORDER BY run_time",
      )
    ).rows;
  const QUIET_MILLISECONDS = 75_000;
  await pause(QUIET_MILLISECONDS);
  await place.sql(
    `BEGIN; ${"INSERT INTO lab.inbox SELECT n FROM generate_series(1, 1000) n; ".repeat(8)} ROLLBACK`,
  );
  for (const upkeep of ["VACUUM", "VACUUM FULL", "ANALYZE"]) await place.sql(`${upkeep} lab.inbox`);
  await pause(QUIET_MILLISECONDS);
  const never = (await started()).length;
  for (let part = 0; part < 3; part += 1) {
    await place.sql("INSERT INTO lab.inbox VALUES (0)");
    await pause(15_000);
  }
  await pause(QUIET_MILLISECONDS);
  const arrived = await started();
  for (const { id } of arrived) await place.ended(id);
  await place.kill(worker);
  await place.save(labFile());
  suite.passNow();
  await suite.audit(
    `rolled back and maintained: ${never} runs; loaded in three parts: ${arrived.length} run`,
    arrived.at(-1)?.id,
    { held: never === 0 && arrived.length === 1 },
  );
}

/** A receiver of messages takes them and never answers, while a schedule runs every minute. */
export async function receiverSilent(place: TestInstallation, suite: FaultSuite): Promise<void> {
  const sockets = new Set<net.Socket>();
  const server = net.createServer((socket) => sockets.add(socket));
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as net.AddressInfo;
  await addMessages(
    place.context.store.db,
    Array.from({ length: MESSAGES }, (_, index) => ({
      kind: "webhook" as const,
      target: `http://127.0.0.1:${port}/${index}`,
      subject: "a message that nobody answers",
      body: { index },
      key: `silent ${index}`,
    })),
  );
  await place.save(
    labFile({
      more: 'schedules: [{name: punctual, run: score, cron: "* * * * *", zone: UTC, missed: skip}]',
    }),
  );
  const workers = await Promise.all([place.startWorker(), place.startWorker()]);
  await pause(150_000);
  await place.save(labFile());
  const { rows } = await place.context.store.pool.query<{ id: string; late: number }>(
    "SELECT id, extract(epoch FROM created_at - run_time)::float8 AS late FROM runs WHERE slot LIKE '%punctual%' ORDER BY run_time",
  );
  for (const { id } of rows) await place.ended(id);
  for (const worker of workers) await place.kill(worker);
  for (const socket of sockets) socket.destroy();
  server.close();
  suite.passNow();
  const latest = Math.max(...rows.map((row) => row.late));
  await suite.audit(
    `${MESSAGES} messages to a receiver that never answers: ${rows.length} runs of every minute, at most ${formatNumber(latest)} s late`,
    rows.at(-1)?.id,
    { held: rows.length >= 2 && latest < MOST_LATE_SECONDS },
  );
}
