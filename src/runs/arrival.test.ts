import { findPipeline, listSchedules, setSchedulePaused } from "@/store/pipelines";
import { askCancel, listRuns } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { until } from "../../testing/installation";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { rests } from "./arrival";
import { advanceBackfills, orderBackfill } from "./backfill";
import { eventStates } from "./due";
import { executeRun } from "./execute";
import { orderOnDemand } from "./on-demand";
import { openQueue } from "./queue";
import { startDueRuns } from "./schedule";

let bench: Bench;
let queues: readonly Awaited<ReturnType<typeof openQueue>>[];
let clock = TEST_NOW;
beforeAll(async () => {
  bench = await openBench();
  queues = await Promise.all([1, 2, 3].map(() => openQueue(bench.databaseUrl, "sender", () => undefined)));
  await bench.sql(labTable({ rows: 200 }));
});
afterAll(async () => {
  await Promise.all(queues.map((queue) => queue.stop({ graceful: false, wait: false })));
  await bench.close();
});

const context = () => ({ ...bench.context, now: () => Promise.resolve(clock) });
const pass = (minutes: number): void => {
  clock = new Date(clock.getTime() + minutes * 60_000);
};
/** Saves a pipeline that trains when its schedule says so. */
const waiting = (name: string, schedule: string): Promise<void> =>
  bench.save(labFile({ name, more: `schedules: [{name: fresh, run: train, ${schedule}}]` }));
const pipelineOf = async (name: string) => (await findPipeline(bench.context.store.db, name))!;
const runsOf = async (name: string) => {
  const { id } = await pipelineOf(name);
  return listRuns(bench.context.store.db, { limit: 50, pipelineId: id });
};
/** A table that took long to read is left alone for some time, which a starved machine makes seconds. */
async function untilTableIsReadAgain(name: string): Promise<void> {
  const { db } = bench.context.store;
  const { id } = (await findPipeline(db, name))!;
  await until(`${name} to be read again`, async () => {
    const schedules = await listSchedules(db, [id]);
    return schedules.every(({ arriving }) => arriving === null || !rests(arriving));
  });
}
/** Looks as three workers do, and counts the runs that there are. */
async function started(name: string): Promise<number> {
  await untilTableIsReadAgain(name);
  await Promise.all(queues.map((queue) => startDueRuns(context(), queue)));
  return (await runsOf(name)).length;
}
/** The server tells of writes within a second or so, and of all of them at once when it is asked to forget what it knows. */
async function written(...statements: readonly string[]): Promise<void> {
  for (const statement of statements) await bench.sql(statement);
  await bench.sql("SELECT pg_stat_force_next_flush(), pg_stat_clear_snapshot()");
  await new Promise((resolve) => setTimeout(resolve, 1200));
}
const INBOX = "CREATE TABLE lab.NAME AS SELECT n, 'word ' || n AS word FROM generate_series(1, 500) n";

test("what was rolled back has not arrived, nor has anything by maintenance; what is committed has, once", async () => {
  await written(INBOX.replace("NAME", "inbox"));
  await waiting("inbox", "arrival: lab.inbox, quiet_for: 0");
  expect(await started("inbox")).toBe(0);
  await bench.admin(async (client) => {
    await client.query("BEGIN");
    for (let times = 0; times < 8; times += 1)
      await client.query("INSERT INTO lab.inbox SELECT n, 'more' FROM generate_series(1, 1000) n");
    await client.query("ROLLBACK");
  });
  await written();
  expect(await started("inbox")).toBe(0);
  for (const statement of ["VACUUM", "VACUUM (FREEZE)", "VACUUM FULL", "ANALYZE"]) {
    await written(`${statement} lab.inbox`);
    expect(await started("inbox")).toBe(0);
  }
  await written("UPDATE lab.inbox SET word = 'other' WHERE n = 7");
  expect(await started("inbox")).toBe(1);
  expect(await started("inbox")).toBe(1);
  await written("TRUNCATE lab.inbox", "INSERT INTO lab.inbox SELECT n, 'new' FROM generate_series(1, 500) n");
  expect(await started("inbox")).toBe(2);
});

test("a load of several statements over minutes is one arrival, when it has been quiet for as long as the file says", async () => {
  await written(INBOX.replace("NAME", "load"));
  await waiting("load", "arrival: lab.load, quiet_for: 5");
  expect(await started("load")).toBe(0);
  for (let part = 0; part < 3; part += 1) {
    await written("INSERT INTO lab.load VALUES (1, 'more')");
    expect(await started("load")).toBe(0);
    pass(4);
    expect(await started("load")).toBe(0);
  }
  pass(1);
  expect(await started("load")).toBe(1);
  pass(60);
  expect(await started("load")).toBe(1);
});

test("rows that arrive in a part of a table have arrived", async () => {
  await written(
    "CREATE TABLE lab.parted (n integer) PARTITION BY LIST (n)",
    "CREATE TABLE lab.parted_1 PARTITION OF lab.parted FOR VALUES IN (1)",
  );
  await waiting("parted", "arrival: lab.parted, quiet_for: 0");
  expect(await started("parted")).toBe(0);
  await written("INSERT INTO lab.parted VALUES (1)");
  expect(await started("parted")).toBe(1);
});

test("what arrives while as many runs as may be are running waits until there is room", async () => {
  await written(INBOX.replace("NAME", "busy"));
  await waiting("busy", "arrival: lab.busy, quiet_for: 0, at_once: 1");
  const state = async (): Promise<string | undefined> => {
    const [schedule] = await listSchedules(bench.context.store.db, [(await pipelineOf("busy")).id]);
    return (await eventStates(bench.context, [schedule!]))[0]?.state;
  };
  expect(await started("busy")).toBe(0);
  expect(await state()).toBeUndefined();
  await written("INSERT INTO lab.busy VALUES (1, 'first')");
  expect(await started("busy")).toBe(1);
  expect(await state()).toBe("running");
  for (const word of ["second", "third"]) await written(`INSERT INTO lab.busy VALUES (1, '${word}')`);
  expect(await started("busy")).toBe(1);
  expect(await state()).toBe("waiting");
  const [run] = await runsOf("busy");
  await askCancel(bench.context.store.db, run!.id);
  expect(await started("busy")).toBe(2);
  expect(await started("busy")).toBe(2);
});

test("rows on demand are no delivery for those who wait for one, and a backfill only where the file says so", async () => {
  await bench.save(
    labFile({ name: "first", delivery: "{name: desk, table: predictions.first, mode: upsert}" }),
  );
  await waiting("plain", "after: first");
  await waiting("backfilled", "after: first, after_backfill: true");
  await bench.train("first");
  const all = async () => [await started("plain"), await started("backfilled")];
  expect(await all()).toEqual([0, 0]);
  const [queue] = queues;
  const ordered = await orderOnDemand(context(), queue!, {
    pipeline: "first",
    table: "lab.rows",
    cause: "hand",
  });
  await executeRun(bench.context, ordered.ok ? ordered.value.id : "", "test");
  expect((await runsOf("first"))[0]).toMatchObject({ state: "done" });
  expect(await all()).toEqual([0, 0]);
  const day = new Date("2026-06-03T00:00:00Z");
  await orderBackfill(context(), { pipeline: "first", from: day, until: day });
  await advanceBackfills(context(), queue!);
  const [caught] = await runsOf("first");
  await executeRun(bench.context, caught!.id, "test");
  expect((await runsOf("first"))[0]).toMatchObject({ state: "done", cause: "backfill" });
  expect(await all()).toEqual([0, 1]);
  await bench.run("score", "first", { at: new Date("2026-06-30T05:00:00Z") });
  expect(await all()).toEqual([1, 2]);
});

test("what arrives or is delivered while a schedule is paused is passed", async () => {
  await written(INBOX.replace("NAME", "paused"));
  await waiting("paused", "arrival: lab.paused, quiet_for: 0");
  await waiting("follower", "after: first");
  const all = async () => [await started("paused"), await started("follower")];
  expect(await all()).toEqual([0, 0]);
  const { db } = bench.context.store;
  const ids = await Promise.all(
    ["paused", "follower"].map(async (name) => (await findPipeline(db, name))!.id),
  );
  const schedules = await listSchedules(db, ids);
  for (const { id } of schedules) await setSchedulePaused(db, id, true, clock);
  await written("INSERT INTO lab.paused VALUES (1, 'while it is paused')");
  await bench.run("score", "first", { at: new Date("2026-06-30T06:00:00Z") });
  expect(await all()).toEqual([0, 0]);
  for (const { id } of schedules) await setSchedulePaused(db, id, false, clock);
  expect(await all()).toEqual([0, 0]);
  await written("INSERT INTO lab.paused VALUES (1, 'afterwards')");
  await bench.run("score", "first", { at: new Date("2026-06-30T07:00:00Z") });
  expect(await all()).toEqual([1, 1]);
});
