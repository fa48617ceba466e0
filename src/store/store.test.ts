import { randomBytes } from "node:crypto";
import { parsePipeline } from "@/core/pipeline/parse";
import { unwrap } from "@/core/problem";
import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { findPipeline, listPipelines, listVersions, newestVersion, saveVersion } from "./pipelines";
import { addRun, beat, claimRun, countRuns, endRun, runById, runsBeginning, unfinishedRuns } from "./runs";
import { decrypt, encrypt } from "./secrets";
import {
  clockOffset,
  clockReached,
  noteClock,
  readWarehouse,
  saveWarehouse,
  setClockOffset,
} from "./settings";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 50 }));
});
afterAll(() => bench.close());

const save = (text: string, basedOn?: number) =>
  saveVersion(
    bench.context.store.db,
    unwrap(parsePipeline(text)).file,
    text,
    "hash",
    TEST_NOW,
    undefined,
    basedOn,
  );

test("an edit that began at an older version is told, and overwrites nothing", async () => {
  await save(labFile());
  expect(await save(labFile({ settings: "{ridge: 1}" }), 1)).toMatchObject({
    version: { number: 2 },
    fresh: true,
  });
  expect(await save(labFile({ settings: "{ridge: 2}" }), 1)).toEqual({ conflict: 2 });
  expect(await save(labFile({ settings: "{ridge: 1}" }), 2)).toMatchObject({
    version: { number: 2 },
    fresh: false,
  });
  const pipeline = (await findPipeline(bench.context.store.db, "lab"))!;
  expect((await listVersions(bench.context.store.db, pipeline.id)).map((version) => version.number)).toEqual([
    2, 1,
  ]);
});

test("saves at the same moment get numbers of their own", async () => {
  await Promise.all(
    Array.from({ length: 5 }, (_, index) => save(labFile({ name: "busy", settings: `{ridge: ${index}}` }))),
  );
  const pipeline = (await findPipeline(bench.context.store.db, "busy"))!;
  expect((await listVersions(bench.context.store.db, pipeline.id)).map((version) => version.number)).toEqual([
    5, 4, 3, 2, 1,
  ]);
});

test("a run is claimed by one worker; a silent one loses it and can no longer end it", async () => {
  const { db, pool } = bench.context.store;
  await save(labFile());
  const pipeline = (await findPipeline(db, "lab"))!;
  const run = (await addRun(db, {
    kind: "train",
    pipelineId: pipeline.id,
    pipelineVersionId: (await newestVersion(db, pipeline.id))!.id,
    cause: "hand",
    runTime: TEST_NOW,
  }))!;
  const claims = await Promise.all(["a", "b", "c"].map((worker) => claimRun(db, run.id, worker)));
  const [first] = claims.filter((claim) => claim !== undefined);
  expect(claims.filter((claim) => claim !== undefined)).toHaveLength(1);
  expect(await claimRun(db, run.id, "late")).toBeUndefined();
  await pool.query("UPDATE runs SET heartbeat_at = now() - interval '1 minute' WHERE id = $1", [run.id]);
  const second = (await claimRun(db, run.id, "next"))!;
  expect(second.attempt).toBe(2);
  expect(await beat(db, run.id, first!.worker!, { progress: null, stillFor: 0 })).toEqual({
    cancel: false,
    lost: true,
  });
  expect(await endRun(db, first!, { state: "cancelled" })).toBe(false);
  expect(await runsBeginning(db, run.id.slice(0, 8).toUpperCase(), 2)).toEqual([run.id]);
  expect(await runsBeginning(db, "no id at all", 2)).toEqual([]);
  expect(await runById(db, run.id)).toMatchObject({ state: "running", worker: "next" });
  expect(await endRun(db, second, { state: "done", outcome: "good" })).toBe(true);
});

test("a run that waits for its turn is unfinished; one that waits for something else is not counted", async () => {
  const { db } = bench.context.store;
  const [pipeline] = await listPipelines(db);
  const version = (await newestVersion(db, pipeline!.id))!;
  const before = await unfinishedRuns(db);
  const order = {
    kind: "train",
    pipelineId: pipeline!.id,
    pipelineVersionId: version.id,
    cause: "hand",
    runTime: TEST_NOW,
  } as const;
  const waiting = (await addRun(db, order))!;
  await addRun(db, { ...order, notBefore: new Date("9999-01-01T00:00:00Z"), waitsFor: "its sources" });
  expect(await unfinishedRuns(db)).toBe(before + 1);
  await claimRun(db, waiting.id, "a worker");
  expect(await unfinishedRuns(db)).toBe(before + 1);
  await endRun(db, { id: waiting.id, attempt: 1 }, { state: "done" });
  expect(await unfinishedRuns(db)).toBe(before);
});

test("all runs of the last hours are counted, however many there are", async () => {
  const { db } = bench.context.store;
  const pipeline = (await findPipeline(db, "lab"))!;
  const before = await countRuns(db, 24);
  const version = (await newestVersion(db, pipeline.id))!;
  await bench.context.store.pool.query(
    "INSERT INTO runs (kind, pipeline_id, pipeline_version_id, cause, run_time, state, options, created_at) SELECT 'score', $1, $2, 'hand', now(), CASE WHEN n % 4 = 0 THEN 'failed' ELSE 'done' END, '{}', now() - n * interval '10 minutes' FROM generate_series(1, 180) n",
    [pipeline.id, version.id],
  );
  expect(await countRuns(db, 24)).toEqual({ ...before, done: before.done + 108 });
});

test("warehouse logins are encrypted in the database and read back with the key alone", async () => {
  const key = randomBytes(32);
  const { config } = bench.context.warehouse;
  await saveWarehouse(bench.context.store.db, "main", config, key);
  const { rows } = await bench.context.store.pool.query<Record<string, string>>("SELECT * FROM warehouses");
  expect(JSON.stringify(rows)).not.toContain(config.reader.password);
  expect(await readWarehouse(bench.context.store.db, key)).toEqual(config);
  await expect(readWarehouse(bench.context.store.db, randomBytes(32))).rejects.toThrow();
  const sealed = encrypt({ a: 1 }, key);
  expect(encrypt({ a: 1 }, key)).not.toBe(sealed);
  expect(() => decrypt(`${sealed.slice(0, -6)}AAAA==`, key)).toThrow();
});

test("a clock that is not the computer's tells what it showed last, and goes on from there", async () => {
  const { db } = bench.context.store;
  const now = new Date("2026-11-29T06:00:00Z");
  await setClockOffset(db, -3_600_000);
  expect(await clockReached(db)).toBeUndefined();
  await noteClock(db, now);
  expect(await clockReached(db)).toEqual(new Date("2026-11-29T05:00:00Z"));
  expect(await clockOffset(db)).toBe(-3_600_000);
});
