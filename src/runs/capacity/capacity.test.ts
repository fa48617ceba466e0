import type PgBoss from "pg-boss";
import { labFile, labTable } from "../../../testing/lab";
import { until } from "../../../testing/installation";
import { openBench, TEST_NOW, type Bench } from "../../../testing/warehouse";
import { claimRun, runById, type RunRow } from "@/store/runs";
import { noteWorker, reserveMemory } from "@/store/workers";
import { unwrap } from "@/core/problem";
import { executeRun } from "../execute";
import { openQueue, orderRun, workOnNextRun, type RunTaker } from "../queue";
import { RunRecorder } from "../recorder";
import { forecastWait } from "./forecast";
import { takeMemory } from "./memory";
import { sizeUp } from "./size-up";

let bench: Bench;
let boss: PgBoss;

beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "worker", () => undefined);
  await bench.sql(labTable({ rows: 400 }));
  await bench.sql(
    "CREATE VIEW lab.many AS SELECT r.* FROM lab.rows r CROSS JOIN generate_series(1, 30000) g",
  );
  await bench.save(labFile({ name: "little" }));
  await bench.save(labFile({ name: "much", from: "lab.many" }));
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
});

let orders = 0;
/** Each for another time: the same order twice would be one run. */
const order = async (pipeline: string): Promise<RunRow> => {
  orders += 1;
  const runTime = new Date(TEST_NOW.getTime() + 1000 * orders);
  return unwrap(await orderRun(bench.context, boss, { kind: "train", pipeline, cause: "hand", runTime }));
};

const taker = (takesLarge: boolean, name: string, done: string[]): RunTaker => ({
  takesLarge,
  sizeUp: (run) => sizeUp(bench.context, run),
  work: async (id) => {
    done.push(id);
    await claimRun(bench.context.store.db, id, name);
  },
});

test("a worker for small runs leaves a large one alone and does the small one behind it; the page says what the large one waits for", async () => {
  const { context } = bench;
  const { db } = context.store;
  const [large, second, small] = [await order("much"), await order("much"), await order("little")];
  const done: string[] = [];
  const [few, all] = [taker(false, "few", done), taker(true, "all", done)];
  while (await workOnNextRun(context, boss, few));
  expect(done).toEqual([small.id]);
  const sized = (await runById(db, large.id))!;
  expect(sized.workload).toMatchObject({ small: false });
  expect(sized.workload!.rows).toBeGreaterThan(1e6);

  await noteWorker(db, { name: "few", takesLarge: false, trouble: null });
  expect(await forecastWait(context.store, sized, new Date())).toMatchObject({ nobodyTakesIt: true });
  await noteWorker(db, { name: "all", takesLarge: true, trouble: null });
  expect(await workOnNextRun(context, boss, all)).toBe(true);
  expect(done).toEqual([small.id, large.id]);
  const waiting = (await runById(db, second.id))!;
  expect(await forecastWait(context.store, waiting, new Date())).toMatchObject({
    small: false,
    before: 0,
    startsIn: undefined,
    doing: [{ id: large.id, pipeline: "much", secondsLeft: undefined }],
  });
  // Once a run like it has ended, its duration tells how long.
  await bench.context.store.pool.query(
    "UPDATE runs SET state = 'done', started_at = now() - interval '900 seconds', finished_at = now() WHERE id = $1",
    [large.id],
  );
  expect(await workOnNextRun(context, boss, all)).toBe(true);
  const third = await order("much");
  await sizeUp(context, third);
  expect(
    (await forecastWait(context.store, (await runById(db, third.id))!, new Date())).startsIn,
  ).toBeCloseTo(900, -1);
});

test("runs that take memory at the same moment never have more than there is, and one that waits says so and gets its turn", async () => {
  const { context } = bench;
  const { db } = context.store;
  const ordered = await Promise.all(Array.from({ length: 6 }, () => order("little")));
  for (const item of ordered) await claimRun(db, item.id, "few");
  const limit = 100;
  const got = await Promise.all(ordered.map((run) => reserveMemory(db, run.id, { bytes: 30, limit })));
  expect(got.filter(Boolean)).toHaveLength(3);

  process.env["RAVLEN_MEMORY_MB"] = String(100 / 1024 / 1024);
  try {
    const late = ordered[got.indexOf(false)]!;
    const recorder = new RunRecorder(context.store, late);
    let has = false;
    const taken = takeMemory(context, recorder, 30).finally(() => (has = true));
    const { rows } = await until("what the run says", async () => {
      const found = await context.store.pool.query("SELECT message FROM run_log WHERE run_id = $1", [
        late.id,
      ]);
      return found.rows.length > 0 && found;
    });
    expect(JSON.stringify(rows)).toContain("Waiting for memory");
    expect(has).toBe(false);
    await context.store.pool.query("UPDATE runs SET state = 'done' WHERE id = $1", [
      ordered[got.indexOf(true)]!.id,
    ]);
    await (
      await taken
    )();
    expect((await runById(db, late.id))!.reservedBytes).toBeNull();
  } finally {
    delete process.env["RAVLEN_MEMORY_MB"];
  }
  await context.store.pool.query("UPDATE runs SET state = 'cancelled' WHERE state = 'running'");
});

test("a training takes memory for its rows and gives it back", async () => {
  const { context } = bench;
  await bench.save(
    labFile({ name: "near" }).replace(
      /candidates: \[.*\]/,
      "candidates: [{name: near, algorithm: nearest_neighbours}]",
    ),
  );
  const run = await order("near");
  const { pool } = context.store;
  await pool.query(
    "CREATE TABLE taken (bytes float8); CREATE FUNCTION note() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN INSERT INTO taken SELECT NEW.reserved_bytes WHERE NEW.reserved_bytes > 0; RETURN NEW; END'; CREATE TRIGGER note AFTER UPDATE OF reserved_bytes ON runs FOR EACH ROW EXECUTE FUNCTION note()",
  );
  await executeRun(context, run.id, "all");
  const { rows } = await pool.query<{ bytes: number }>("SELECT bytes FROM taken");
  expect((await runById(context.store.db, run.id))!).toMatchObject({ state: "done", reservedBytes: null });
  expect(rows.length).toBeGreaterThan(0);
});
