import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { listSchedules, findPipeline, setSchedulePaused } from "@/store/pipelines";
import { listRuns } from "@/store/runs";
import { openQueue } from "./queue";
import { dueSlots, nextSlots, slotsBetween, startDueRuns } from "./schedule";

const iso = (slots: readonly Date[]): readonly string[] => slots.map((each) => each.toISOString());

describe("times of a cron expression", () => {
  test("are local to the zone, also across the change of the clocks", () => {
    expect(iso(nextSlots("30 22 * * *", "Europe/Lisbon", new Date("2026-10-24T12:00:00Z"), 3))).toEqual(["2026-10-24T21:30:00.000Z", "2026-10-25T22:30:00.000Z", "2026-10-26T22:30:00.000Z"]);
  });

  test("a time that the clocks skip comes once, and one that they repeat comes once", () => {
    expect(iso(slotsBetween("30 1 * * *", "Europe/Lisbon", new Date("2026-03-28T12:00:00Z"), new Date("2026-03-30T12:00:00Z")))).toHaveLength(2);
    expect(iso(slotsBetween("30 1 * * *", "Europe/Lisbon", new Date("2026-10-24T12:00:00Z"), new Date("2026-10-26T12:00:00Z")))).toHaveLength(2);
  });

  test("between two moments, the first is left out and the last belongs to it", () => {
    expect(iso(slotsBetween("0 * * * *", "UTC", new Date("2026-06-30T10:00:00Z"), new Date("2026-06-30T12:00:00Z")))).toEqual(["2026-06-30T11:00:00.000Z", "2026-06-30T12:00:00.000Z"]);
  });

  test("missed ones are skipped or caught up once, those in time always run", () => {
    const now = new Date("2026-06-30T12:03:00Z");
    const [early, late, just] = ["2026-06-29T12:00:00Z", "2026-06-30T06:00:00Z", "2026-06-30T12:00:00Z"].map((each) => new Date(each)) as [Date, Date, Date];
    expect(dueSlots([early, late], now, "skip")).toEqual([]);
    expect(dueSlots([early, late], now, "catch_up_once")).toEqual([late]);
    expect(dueSlots([early, late, just], now, "catch_up_once")).toEqual([just]);
    expect(dueSlots([], now, "catch_up_once")).toEqual([]);
  });
});

describe("starting what is due", () => {
  let bench: Bench;
  let clock = new Date("2026-06-30T12:00:00Z");
  const context = () => ({ ...bench.context, now: () => Promise.resolve(clock) });
  const schedules = 'schedules: [{name: hourly, run: train, cron: "0 * * * *", zone: UTC, missed: catch_up_once}]';

  beforeAll(async () => {
    bench = await openBench();
    await bench.sql(labTable({ rows: 200 }));
    await bench.save(labFile({ more: schedules }));
  });
  afterAll(() => bench.close());

  test("one slot makes one run, whatever the number of workers that look", async () => {
    const queues = await Promise.all([1, 2, 3, 4, 5].map(() => openQueue(bench.databaseUrl, "sender", () => undefined)));
    try {
      const pipeline = (await findPipeline(bench.context.store.db, "lab"))!;
      const times = async () => (await listRuns(bench.context.store.db, { limit: 50, pipelineId: pipeline.id })).map((run) => `${run.runTime.toISOString()} ${run.cause}`);
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
});
