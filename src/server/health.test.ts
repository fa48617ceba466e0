import { PostgresWarehouse } from "@/warehouse/postgres/warehouse";
import { noteWorker } from "@/store/workers";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { metricFamilies, readHealth } from "./health";
import { printMetrics } from "./open-metrics";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
});
afterAll(() => bench.close());

test("health names what is not there, and says nothing when all is", async () => {
  expect((await readHealth(bench.context)).wrong).toEqual([
    "No worker is running: runs wait, and schedules do not start.",
  ]);
  await noteWorker(bench.context.store.db, {
    name: "here/1",
    takesLarge: true,
    trouble: "start due runs (the disk is full)",
  });
  expect((await readHealth(bench.context)).wrong).toEqual([
    expect.stringContaining("here/1 fails its periodic task: start due runs (the disk is full)"),
  ]);
  await noteWorker(bench.context.store.db, { name: "here/1", takesLarge: true, trouble: null });
  expect(await readHealth(bench.context)).toMatchObject({
    wrong: [],
    scratchTables: 0,
    store: { workers: [expect.objectContaining({ name: "here/1" })], oldestWaiting: 0 },
  });
  const { config } = bench.context.warehouse;
  const locked = new PostgresWarehouse({ ...config, writer: { ...config.writer, password: "wrong" } });
  try {
    expect((await readHealth({ ...bench.context, warehouse: locked })).wrong).toEqual([
      "The warehouse does not respond to the writer.",
    ]);
  } finally {
    await locked.end();
  }
});

test("metrics tell of runs, deliveries, schedules and alerts", async () => {
  await bench.save(
    labFile({ name: "metered", more: "schedules: [{name: nightly, run: score, cron: '15 2 * * *'}]" }),
  );
  await bench.train("metered");
  await bench.run("score", "metered");
  await bench.run("score", "metered", { delivery: "unknown" });
  await noteWorker(bench.context.store.db, { name: "here/1", takesLarge: true, trouble: null });
  const text = await printMetrics(await metricFamilies(bench.context));
  for (const line of [
    "ravlen_up 1",
    'ravlen_runs{pipeline="metered",kind="score",state="done"} 1',
    'ravlen_runs{pipeline="metered",kind="score",state="failed"} 1',
    'ravlen_delivered_rows{pipeline="metered",delivery="desk"} 400',
    'ravlen_delivered_age_seconds{pipeline="metered",delivery="desk"} 0',
    'ravlen_open_alerts{kind="failed"} 1',
    'ravlen_schedule_owed{pipeline="metered",schedule="nightly"} 0',
    "ravlen_scratch_tables 0",
  ])
    expect(text.split("\n")).toContain(line);
  expect(text.endsWith("# EOF\n")).toBe(true);
});

test("labels of metrics are escaped, and what has no number says so", async () => {
  const text = await printMetrics([
    {
      name: "ravlen_runs",
      help: "Runs by pipeline.",
      samples: [
        { labels: { pipeline: 'a "b" \\ c\n' }, value: 2 },
        { labels: { pipeline: "d" }, value: Number.NaN },
      ],
    },
    { name: "ravlen_none", help: "Nothing yet.", samples: [] },
  ]);
  expect(text).toContain('ravlen_runs{pipeline="a \\"b\\" \\\\ c\\n"} 2\n');
  expect(text).toMatch(/ravlen_runs\{pipeline="d"\} nan\n/i);
  expect(text).not.toContain("ravlen_none");
});
