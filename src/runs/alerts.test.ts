import { acknowledgeAlert, listAlerts } from "@/store/alerts";
import { findPipeline, listSchedules, settleSchedule } from "@/store/pipelines";
import { addRun, askCancel } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { watchLateness } from "./alerts";
import type { Context } from "./context";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
});
afterAll(() => bench.close());

const later = (minutes: number): Date => new Date(TEST_NOW.getTime() + minutes * 60_000);
const alertsOf = async (name: string) => {
  const pipeline = (await findPipeline(bench.context.store.db, name))!;
  return (await listAlerts(bench.context.store.db, 24)).filter((alert) => alert.pipelineId === pipeline.id);
};

test("one alert for a matter, however often it fails; taken on by a person; cleared when the work is done; then a new one", async () => {
  await bench.sql(labTable({ table: "lab.watched" }));
  await bench.save(
    labFile({
      name: "watched",
      from: "lab.watched",
      delivery: "{name: desk, table: predictions.watched}, {name: other, table: predictions.watched_other}",
    }),
  );
  await bench.train("watched");
  await bench.sql("ALTER TABLE lab.watched RENAME COLUMN x1 TO x_one");
  for (const minutes of [0, 1, 2])
    await bench.run("score", "watched", { delivery: "desk", at: later(minutes) });
  const [alert, ...more] = await alertsOf("watched");
  expect(more).toEqual([]);
  expect(alert).toMatchObject({
    kind: "contract",
    times: 3,
    title: "The data that scoring watched reads have changed",
    problems: [
      expect.objectContaining({ code: "source_gone", message: expect.stringContaining("x1") as string }),
    ],
    clearedAt: null,
  });
  expect(await acknowledgeAlert(bench.context.store.db, alert!.id, "Ada")).toBe(true);
  expect(await acknowledgeAlert(bench.context.store.db, alert!.id, "Bo")).toBe(false);
  await bench.run("score", "watched", { delivery: "desk", at: later(3) });
  expect((await alertsOf("watched"))[0]).toMatchObject({ times: 4, acknowledgedBy: "Ada" });
  await bench.sql("ALTER TABLE lab.watched RENAME COLUMN x_one TO x1");
  // Another delivery that works says nothing about this one.
  await bench.run("score", "watched", { delivery: "other", at: later(4) });
  expect((await alertsOf("watched"))[0]!.clearedAt).toBeNull();
  await bench.run("score", "watched", { delivery: "desk", at: later(5) });
  expect((await alertsOf("watched"))[0]).toMatchObject({
    clearedAt: expect.any(Date) as Date,
    clearedWith: expect.stringContaining("400 rows into predictions.watched") as string,
  });
  await bench.sql("ALTER TABLE lab.watched RENAME COLUMN x1 TO x_one");
  await bench.run("score", "watched", { delivery: "desk", at: later(6) });
  expect((await alertsOf("watched")).map((alert) => [alert.clearedAt === null, alert.times])).toEqual([
    [true, 1],
    [false, 4],
  ]);
});

test("a time that has passed without a finished run is late; a skipped, cancelled or paused one is not; catching up clears it", async () => {
  const { db } = bench.context.store;
  await bench.save(
    labFile({
      name: "due",
      delivery: "{name: desk, table: predictions.due}",
      more: "schedules: [{name: hourly, run: score, cron: '0 * * * *', late_after: 10}]",
    }),
  );
  await bench.train("due");
  const pipeline = (await findPipeline(db, "due"))!;
  const at = (minutes: number): Context => ({ ...bench.context, now: () => Promise.resolve(later(minutes)) });
  const look = async (minutes: number) => {
    await watchLateness(at(minutes));
    return (await alertsOf("due")).map((alert) => [alert.kind, alert.clearedAt === null]);
  };
  const [schedule] = await listSchedules(db, [pipeline.id]);
  expect(TEST_NOW.getUTCMinutes()).toBe(0);
  // The hour that has just struck was before the schedule was there.
  expect(await look(30)).toEqual([]);
  expect(await look(65)).toEqual([]);
  expect(await look(71)).toEqual([["late", true]]);
  expect((await alertsOf("due"))[0]!.problems[0]!.message).toBe(
    "The run due at 2026-06-30 13:00 UTC is not done, and no run has started.",
  );
  const slow = (await addRun(db, {
    kind: "score",
    pipelineId: pipeline.id,
    pipelineVersionId: 1,
    cause: "schedule",
    runTime: later(60),
    options: { delivery: "desk" },
    slot: `${pipeline.id}/hourly/x`,
  }))!;
  expect(await look(72)).toEqual([["late", true]]);
  await askCancel(db, slow.id);
  await bench.run("score", "due", { at: later(60) });
  expect(await look(73)).toEqual([["late", false]]);
  expect(schedule).toMatchObject({ lateAfter: 10 });
  // What somebody does by hand long after a time that was dealt with makes nothing late.
  await settleSchedule(db, schedule!.id, later(120));
  await addRun(db, {
    kind: "score",
    pipelineId: pipeline.id,
    pipelineVersionId: 1,
    cause: "hand",
    runTime: later(125),
    options: { delivery: "desk" },
  });
  expect(await look(170)).toEqual([["late", false]]);
});

test("what is done for an earlier time clears nothing of a later one; the first delivery is one matter, named or not", async () => {
  await bench.sql(labTable({ table: "lab.timed" }));
  await bench.save(
    labFile({ name: "timed", from: "lab.timed", delivery: "{name: desk, table: predictions.timed}" }),
  );
  await bench.train("timed");
  const open = async () => (await alertsOf("timed")).filter((alert) => alert.clearedAt === null).length;
  await bench.sql("ALTER TABLE lab.timed RENAME COLUMN x1 TO x_one");
  await bench.run("score", "timed", { at: later(60) });
  await bench.run("score", "timed", { at: later(60), delivery: "desk" });
  expect(await alertsOf("timed")).toMatchObject([{ times: 2, clearedAt: null }]);
  await bench.sql("ALTER TABLE lab.timed RENAME COLUMN x_one TO x1");
  await bench.run("score", "timed", { at: later(0), delivery: "desk" });
  expect(await open()).toBe(1);
  await bench.run("score", "timed", { at: later(60) });
  expect(await open()).toBe(0);
});
