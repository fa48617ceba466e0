import { listAlerts } from "@/store/alerts";
import { findPipeline, listSchedules } from "@/store/pipelines";
import { listRuns, retryRun, runById, runRecord } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { executeRun } from "./execute";
import { openQueue, orderRun } from "./queue";
import { startDueRuns } from "./schedule";
import { watchWaiting } from "./waiting";

let bench: Bench;
let boss: Awaited<ReturnType<typeof openQueue>>;
let clock = new Date("2026-06-30T12:00:00Z");
process.env["RAVLEN_LOCK_SECONDS"] = "0.2";
const context = () => ({ ...bench.context, now: () => Promise.resolve(clock) });
beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "sender", () => undefined);
  await bench.sql(labTable());
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
});

const runsOf = async (name: string) =>
  listRuns(bench.context.store.db, {
    limit: 50,
    pipelineId: (await findPipeline(bench.context.store.db, name))!.id,
    kind: "score",
  });

test("a run waits until its source is fresh, and fails with an alert when it does not become so in time", async () => {
  await bench.sql("CREATE TABLE lab.arrivals AS SELECT timestamptz '2026-06-30 11:00Z' AS loaded_at");
  await bench.save(
    labFile({
      name: "patient",
      delivery: "{name: desk, table: predictions.patient}",
      more: 'schedules: [{name: hourly, run: score, cron: "0 * * * *", zone: UTC, wait: {for: [{table: lab.arrivals, column: loaded_at, within: 30}], until: 45}}]',
    }),
  );
  await bench.train("patient");
  clock = new Date("2026-06-30T13:00:10Z");
  await startDueRuns(context(), boss);
  await watchWaiting(context(), boss);
  const [waiting] = await runsOf("patient");
  expect(waiting).toMatchObject({ state: "queued", waitsFor: "its sources" });
  // Whoever asks for it does not get it before its time.
  await executeRun(context(), waiting!.id, "eager");
  expect((await runById(bench.context.store.db, waiting!.id))!.attempt).toBe(0);
  await bench.sql("INSERT INTO lab.arrivals VALUES ('2026-06-30 12:31Z')");
  await watchWaiting(context(), boss);
  await executeRun(context(), waiting!.id, "test");
  expect((await runById(bench.context.store.db, waiting!.id))!).toMatchObject({ state: "done", rows: 400 });

  clock = new Date("2026-06-30T14:00:10Z");
  await startDueRuns(context(), boss);
  clock = new Date("2026-06-30T14:44:00Z");
  await watchWaiting(context(), boss);
  expect((await runsOf("patient"))[0]!.state).toBe("queued");
  clock = new Date("2026-06-30T14:45:10Z");
  await watchWaiting(context(), boss);
  const [late] = await runsOf("patient");
  expect(late).toMatchObject({
    state: "failed",
    problems: [
      expect.objectContaining({
        code: "source_not_fresh",
        message:
          'lab.arrivals has to reach 2026-06-30 13:30 UTC; its newest "loaded_at" is 2026-06-30 12:31 UTC.',
      }),
    ],
  });
  expect(
    (await listAlerts(bench.context.store.db, 24)).find((alert) => alert.runId === late!.id),
  ).toMatchObject({ kind: "contract", clearedAt: null });
});

test("every minute for an hour, with runs that take longer: at most two wait or are running, and what is excluded is counted", async () => {
  await bench.save(
    labFile({
      name: "busy",
      delivery: "{name: desk, table: predictions.busy}",
      more: 'schedules: [{name: minutely, run: score, cron: "* * * * *", zone: UTC}]',
    }),
  );
  await bench.train("busy");
  const begin = clock;
  let most = 0;
  for (let minute = 1; minute <= 60; minute += 1) {
    clock = new Date(begin.getTime() + minute * 60_000);
    await Promise.all([1, 2, 3, 4, 5].map(() => startDueRuns(context(), boss)));
    const open = (await runsOf("busy")).filter((run) => run.state === "queued");
    most = Math.max(most, open.length);
    // One is done every seven minutes.
    if (minute % 7 === 0) await executeRun(context(), open.at(-1)!.id, "slow");
  }
  expect(most).toBe(2);
  const runs = await runsOf("busy");
  expect(runs.filter((run) => run.state === "done")).toHaveLength(8);
  expect(new Set(runs.map((run) => run.slot)).size).toBe(runs.length);
  const [schedule] = await listSchedules(bench.context.store.db, [runs[0]!.pipelineId]);
  expect(schedule!.leftOut + runs.length).toBeGreaterThanOrEqual(60);
});

test("what can pass by itself is tried again with growing pauses; a person can let it go on from the rows that were staged", async () => {
  await bench.save(labFile({ name: "locked", delivery: "{name: desk, table: predictions.locked}" }));
  await bench.train("locked");
  await bench.run("score", "locked");
  const { db } = bench.context.store;
  const waits: number[] = [];
  const run = await bench.admin(async (holder) => {
    await holder.query("BEGIN");
    await holder.query("LOCK TABLE predictions.locked IN ACCESS EXCLUSIVE MODE");
    const ordered = await orderLocked();
    for (let attempt = 1; attempt <= 4; attempt += 1) {
      await bench.context.store.pool.query("UPDATE runs SET not_before = NULL WHERE id = $1", [ordered]);
      await executeRun(bench.context, ordered, "test");
      const now = (await runById(db, ordered))!;
      // The tables of a server that crashed are empty, whatever is said of them.
      if (attempt === 2)
        for (const { tablename } of await stages()) await bench.sql(`TRUNCATE scratch.${String(tablename)}`);
      if (now.state === "queued") waits.push(Math.round((now.notBefore!.getTime() - Date.now()) / 1000));
    }
    await holder.query("ROLLBACK");
    return (await runById(db, ordered))!;
  });
  expect(waits.map((wait) => Math.round(wait / 5))).toEqual([1, 3, 9]);
  expect(run).toMatchObject({
    state: "failed",
    attempt: 4,
    problems: [expect.objectContaining({ message: expect.stringContaining("55P03") as string })],
  });
  expect(await stages()).not.toEqual([]);
  expect(await retryRun(db, run.id)).toBeDefined();
  await executeRun(bench.context, run.id, "test");
  const { steps } = await runRecord(db, run.id);
  expect(
    steps.filter((step) => step.name === "score into a staged table").map((step) => step.detail),
  ).toEqual([
    null,
    "reused from an earlier attempt",
    null,
    "reused from an earlier attempt",
    "reused from an earlier attempt",
  ]);
  expect(await runById(db, run.id)).toMatchObject({ state: "done", rows: 400 });
  expect(await stages()).toEqual([]);
  expect(await retryRun(db, run.id)).toBeUndefined();
});

const stages = () =>
  bench.sql("SELECT tablename FROM pg_tables WHERE schemaname = 'scratch' AND tablename LIKE 'stage%'");

/** Orders a scoring without doing it. */
async function orderLocked(): Promise<string> {
  const ordered = await orderRun(bench.context, boss, { kind: "score", pipeline: "locked", cause: "hand" });
  if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
  return ordered.value.id;
}
