import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { listSchedules, findPipeline, setSchedulePaused } from "@/store/pipelines";
import { listRuns } from "@/store/runs";
import { eq } from "drizzle-orm";
import { listAlerts } from "@/store/alerts";
import { pipelines } from "@/store/schema";
import { watchLateness } from "./alerts";
import { executeRun } from "./execute";
import { openQueue } from "./queue";
import { startDueRuns } from "./schedule";

describe("starting what is due", () => {
  let bench: Bench;
  let clock = new Date("2026-06-30T12:00:00Z");
  const context = () => ({ ...bench.context, now: () => Promise.resolve(clock) });
  const schedules =
    'schedules: [{name: hourly, run: train, cron: "0 * * * *", zone: UTC, missed: catch_up_once}]';

  beforeAll(async () => {
    bench = await openBench();
    await bench.sql(labTable({ rows: 200 }));
    await bench.save(labFile({ more: schedules }));
  });
  afterAll(() => bench.close());

  test("one slot makes one run, whatever the number of workers that look", async () => {
    const queues = await Promise.all(
      [1, 2, 3, 4, 5].map(() => openQueue(bench.databaseUrl, "sender", () => undefined)),
    );
    try {
      const pipeline = (await findPipeline(bench.context.store.db, "lab"))!;
      const times = async () =>
        (await listRuns(bench.context.store.db, { limit: 50, pipelineId: pipeline.id })).map(
          (run) => `${run.runTime.toISOString()} ${run.cause}`,
        );
      const look = () => Promise.all(queues.map((boss) => startDueRuns(context(), boss)));
      await look();
      expect(await times()).toEqual([]);
      clock = new Date("2026-06-30T13:00:30Z");
      await look();
      await look();
      expect(await times()).toEqual(["2026-06-30T13:00:00.000Z schedule"]);
      // Saving an unrelated change neither repeats a slot nor loses one.
      await bench.save(labFile({ more: schedules, settings: "{ridge: 0.01}" }));
      await look();
      expect(await times()).toHaveLength(1);
      // Down for a day: one run afterwards, for the newest time missed.
      clock = new Date("2026-07-01T13:30:00Z");
      await look();
      expect((await times())[0]).toBe("2026-07-01T13:00:00.000Z schedule");
      expect(await times()).toHaveLength(2);
      const [schedule] = await listSchedules(bench.context.store.db, [pipeline.id]);
      await setSchedulePaused(bench.context.store.db, schedule!.id, true, clock);
      clock = new Date("2026-07-01T15:00:10Z");
      await look();
      expect(await times()).toHaveLength(2);
      await setSchedulePaused(bench.context.store.db, schedule!.id, false, clock);
      await look();
      expect(await times()).toHaveLength(2);
    } finally {
      await Promise.all(queues.map((boss) => boss.stop({ graceful: false, wait: false })));
    }
  });

  test("without a version in service features are delivered by schedule, and predictions are not", async () => {
    const queue = await openQueue(bench.databaseUrl, "sender", () => undefined);
    try {
      clock = new Date("2026-07-02T09:30:00Z");
      const deliveries =
        "{name: desk, table: predictions.sharing}, {name: shared, of: features, table: predictions.sharing_features}";
      const hourly = (delivery: string): string =>
        `{name: ${delivery}-hourly, run: score, delivery: ${delivery}, cron: "0 * * * *", zone: UTC}`;
      await bench.save(
        labFile({
          name: "sharing",
          delivery: deliveries,
          more: `schedules: [${hourly("desk")}, ${hourly("shared")}]`,
        }),
      );
      await startDueRuns(context(), queue);
      clock = new Date("2026-07-02T10:00:30Z");
      await startDueRuns(context(), queue);
      const { id } = (await findPipeline(bench.context.store.db, "sharing"))!;
      const started = await listRuns(bench.context.store.db, { limit: 9, pipelineId: id });
      expect([...new Set(started.map(({ options }) => options.delivery))]).toEqual(["shared"]);
      await executeRun(bench.context, started[0]!.id, "test");
      expect(await bench.sql("SELECT count(*)::int AS rows FROM predictions.sharing_features")).toEqual([
        { rows: 200 },
      ]);
    } finally {
      await queue.stop({ graceful: false, wait: false });
    }
  });

  test("a schedule can wait for another pipeline: once for each delivery of that, for the same logical time", async () => {
    const queue = await openQueue(bench.databaseUrl, "sender", () => undefined);
    try {
      await bench.save(labFile({ name: "first", delivery: "{name: desk, table: predictions.first}" }));
      await bench.save(
        labFile({ name: "second", more: "schedules: [{name: follows, run: train, after: first}]" }),
      );
      await bench.train("first");
      const second = (await findPipeline(bench.context.store.db, "second"))!;
      const started = async () => {
        for (let look = 0; look < 2; look += 1) await startDueRuns(context(), queue);
        return (await listRuns(bench.context.store.db, { limit: 10, pipelineId: second.id })).map((run) => [
          run.kind,
          run.runTime.toISOString(),
        ]);
      };
      expect(await started()).toEqual([]);
      await bench.run("score", "first", { at: new Date("2026-06-30T05:00:00Z") });
      await bench.run("score", "first", { at: new Date("2026-06-30T06:00:00Z") });
      // One that fails delivers nothing.
      await bench.run("score", "first", { at: new Date("2026-06-30T07:00:00Z"), delivery: "unknown" });
      expect((await started()).sort()).toEqual([
        ["train", "2026-06-30T05:00:00.000Z"],
        ["train", "2026-06-30T06:00:00.000Z"],
      ]);
      expect(await started()).toHaveLength(2);
    } finally {
      await queue.stop({ graceful: false, wait: false });
    }
  });

  test("with nothing in service no scoring is started that could only fail, and its time is not owed", async () => {
    const queue = await openQueue(bench.databaseUrl, "sender", () => undefined);
    try {
      await bench.save(
        labFile({
          name: "idle",
          more: 'schedules: [{name: hourly, run: score, cron: "0 * * * *", zone: UTC}]',
        }),
      );
      const pipeline = (await findPipeline(bench.context.store.db, "idle"))!;
      clock = new Date(clock.getTime() + 3_600_000);
      await startDueRuns(context(), queue);
      expect(await listRuns(bench.context.store.db, { limit: 10, pipelineId: pipeline.id })).toEqual([]);
      const [schedule] = await listSchedules(bench.context.store.db, [pipeline.id]);
      expect(schedule!.doneUntil.getTime()).toBe(clock.getTime());
    } finally {
      await queue.stop({ graceful: false, wait: false });
    }
  });
});

test("a schedule that cannot see what it waits for says so, once, and the alert clears when it can", async () => {
  const bench = await openBench();
  const queue = await openQueue(bench.databaseUrl, "sender", () => undefined);
  try {
    const { db } = bench.context.store;
    await bench.sql(labTable({ rows: 60 }));
    await bench.sql("CREATE TABLE lab.inbox (n integer)");
    await bench.save(labFile({ name: "first", delivery: "{name: desk, table: predictions.first}" }));
    await bench.save(
      labFile({ name: "waits", more: "schedules: [{name: fresh, run: train, arrival: lab.inbox}]" }),
    );
    await bench.save(
      labFile({ name: "follows", more: "schedules: [{name: next, run: train, after: first}]" }),
    );
    const open = async () => {
      await startDueRuns(bench.context, queue);
      await startDueRuns(bench.context, queue);
      return (await listAlerts(db, 0))
        .filter((alert) => alert.clearedAt === null)
        .map((alert) => [alert.kind, alert.title, alert.times, alert.problems[0]!.code]);
    };
    expect(await open()).toEqual([]);
    await bench.sql("DROP TABLE lab.inbox");
    await db.update(pipelines).set({ name: "renamed" }).where(eq(pipelines.name, "first"));
    expect((await open()).sort()).toEqual([
      ["blocked", "“fresh” of waits cannot start", 1, "arrival_unreadable"],
      ["blocked", "“next” of follows cannot start", 1, "unknown_pipeline"],
    ]);
    await bench.sql("CREATE TABLE lab.inbox (n integer)");
    await db.update(pipelines).set({ name: "first" }).where(eq(pipelines.name, "renamed"));
    expect(await open()).toEqual([]);
  } finally {
    await queue.stop({ graceful: false, wait: false });
    await bench.close();
  }
});

test("a schedule that cannot be read, or that breaks, holds up none of the others, and says so", async () => {
  const bench = await openBench();
  const queue = await openQueue(bench.databaseUrl, "sender", () => undefined);
  try {
    const { db, pool } = bench.context.store;
    await bench.sql(labTable({ rows: 60 }));
    const schedule = (name: string, cron: string, zone: string): string =>
      `{name: ${name}, run: train, cron: "${cron}", zone: ${zone}}`;
    await bench.save(
      labFile({
        name: "clocks",
        more: `schedules: [${schedule("odd", "0 0 * * *", "UTC")}, ${schedule("broken", "0 0 * * *", "UTC")}, ${schedule("south", "0 0 * * *", "America/Santiago")}, ${schedule("hourly", "0 * * * *", "UTC")}]`,
      }),
    );
    // As versions before took them.
    await pool.query("UPDATE schedules SET cron = 'H H * * *' WHERE name = 'odd'");
    await pool.query("UPDATE schedules SET zone = 'Nowhere/There' WHERE name = 'broken'");
    await pool.query("UPDATE schedules SET done_until = '2026-09-06T03:30:00Z'");
    const context = { ...bench.context, now: () => Promise.resolve(new Date("2026-09-06T04:00:30Z")) };
    await startDueRuns(context, queue);
    await startDueRuns(context, queue);
    await watchLateness(context);
    const pipeline = (await findPipeline(db, "clocks"))!;
    const ordered = await listRuns(db, { limit: 20, pipelineId: pipeline.id });
    expect(ordered.map((run) => run.slot?.replace(/^\d+\//, "")).sort()).toEqual([
      "hourly/2026-09-06T04:00:00.000Z",
      "south/2026-09-06T04:00:00.000Z",
    ]);
    const told = (await listAlerts(db, 0)).map((alert) => [alert.title, alert.problems[0]!.message]);
    expect(told.sort()).toEqual([
      ["“broken” of clocks cannot start", expect.stringContaining("Nowhere/There")],
      ["“odd” of clocks cannot start", expect.stringContaining('"H" cannot be the minute')],
    ]);
  } finally {
    await queue.stop({ graceful: false, wait: false });
    await bench.close();
  }
});

test.each([
  ["", "when_unclear"],
  [", cron: '0 * * * *', after: other", "when_unclear"],
  [", after: lab", "after_itself"],
  [", arrival: lab.nowhere", "unknown_table"],
  [", cron: '0 0'", "bad_cron"],
])("a schedule with “%s” is refused: %s", async (fields, code) => {
  const bench = await openBench();
  try {
    await bench.sql(labTable({ rows: 50 }));
    expect(
      (await bench.problems(labFile({ more: `schedules: [{name: odd, run: train${fields}}]` }))).map(
        (problem) => problem.code,
      ),
    ).toContain(code);
  } finally {
    await bench.close();
  }
});
