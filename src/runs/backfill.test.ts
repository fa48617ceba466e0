import { backfillOnce, backfillById, backfillRuns } from "@/store/backfills";
import { findPipeline } from "@/store/pipelines";
import { listRuns } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { slotsFrom } from "@/core/schedule/slots";
import { advanceBackfills, orderBackfill, stopBackfill } from "./backfill";
import { executeRun } from "./execute";
import { openQueue } from "./queue";

let bench: Bench;
let queues: Awaited<ReturnType<typeof openQueue>>[] = [];
/** Rows of a day want a prediction once that day has begun; which they are depends on the run's logical time. */
const score = "'seen <= cast(run_time() as date) and seen > cast(run_time() as date) - 3'";
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  queues = await Promise.all([1, 2, 3].map(() => openQueue(bench.databaseUrl, "sender", () => undefined)));
  await bench.save(
    labFile({ score, more: 'schedules: [{name: nightly, run: score, cron: "0 6 * * *", zone: UTC}]' }),
  );
  await bench.train("lab");
});
afterAll(async () => {
  await Promise.all(queues.map((queue) => queue.stop({ graceful: false, wait: false })));
  await bench.close();
});

const at = (text: string): Date => new Date(text);
const waiting = async () =>
  (await listRuns(bench.context.store.db, { limit: 500 })).filter(
    (run) => run.cause === "backfill" && run.state === "queued",
  );
/** Begins what may be begun, from three workers at once, and does it, until the backfill is at its end. */
async function workThrough(id: number): Promise<number> {
  let most = 0;
  for (let round = 0; round < 100; round += 1) {
    await Promise.all(queues.map((boss) => advanceBackfills(bench.context, boss)));
    const now = await waiting();
    most = Math.max(most, now.length);
    if (now.length === 0 && (await backfillById(bench.context.store.db, id))?.state === "done") return most;
    await Promise.all(now.map((run) => executeRun(bench.context, run.id, "test")));
  }
  throw new Error("the backfill did not end");
}

test("every time of the range has one run, a few at once, and each row is as the last run that should have predicted it left it", async () => {
  const ordered = await orderBackfill(bench.context, {
    pipeline: "lab",
    from: at("2026-05-10T00:00:00Z"),
    until: at("2026-05-25T23:00:00Z"),
    parallel: 3,
  });
  if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
  expect(ordered.value).toMatchObject({ total: 16, cron: "0 6 * * *", delivery: "desk" });
  const most = await workThrough(ordered.value.id);
  // Three workers may look at the same moment, each seeing the room that there was.
  expect(most).toBeLessThanOrEqual(3);
  expect(await backfillRuns(bench.context.store.db, ordered.value.id)).toMatchObject({
    done: 16,
    failed: 0,
    queued: 0,
    running: 0,
  });
  const [counts] = await bench.sql(
    "SELECT count(*)::int AS rows, count(DISTINCT id)::int AS keys, count(*) FILTER (WHERE run_time::date <> least(seen + 2, date '2026-05-25'))::int AS wrong, (SELECT count(DISTINCT run_time)::int FROM predictions.ravlen_ledger WHERE run_time < '2026-06-01') AS times FROM predictions.lab p JOIN lab.rows USING (id)",
  );
  const [expected] = await bench.sql(
    "SELECT count(*)::int AS rows FROM lab.rows WHERE seen BETWEEN date '2026-05-08' AND date '2026-05-25'",
  );
  expect(counts).toEqual({ rows: expected!["rows"], keys: expected!["rows"], wrong: 0, times: 16 });
});

test("what is there from a later time is not overwritten, also when a range is caught up twice", async () => {
  const before = await bench.sql("SELECT id, run_time, run_id FROM predictions.lab ORDER BY id");
  const ordered = await orderBackfill(bench.context, {
    pipeline: "lab",
    from: at("2026-05-10T00:00:00Z"),
    until: at("2026-05-13T00:00:00Z"),
    parallel: 8,
  });
  if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
  await workThrough(ordered.value.id);
  const after = await bench.sql("SELECT id, run_time, run_id FROM predictions.lab ORDER BY id");
  expect(after.map((row) => [row["id"], String(row["run_time"])])).toEqual(
    before.map((row) => [row["id"], String(row["run_time"])]),
  );
});

test("a backfill goes on where it was when a worker died between beginning a run and noting it", async () => {
  const pipeline = (await findPipeline(bench.context.store.db, "lab"))!;
  const row = await backfillOnce(bench.context.store.db, {
    pipelineId: pipeline.id,
    delivery: "desk",
    cron: "0 6 * * *",
    zone: "UTC",
    from: at("2026-05-01T00:00:00Z"),
    until: at("2026-05-03T12:00:00Z"),
    total: 3,
    parallel: 1,
    doneUntil: at("2026-05-01T00:00:00Z"),
  });
  await advanceBackfills(bench.context, queues[0]!);
  await bench.context.store.pool.query("UPDATE backfills SET done_until = from_time WHERE id = $1", [row.id]);
  await workThrough(row.id);
  expect(await backfillRuns(bench.context.store.db, row.id)).toMatchObject({ done: 3 });
});

test("stopping ends what waits and begins nothing more", async () => {
  const ordered = await orderBackfill(bench.context, {
    pipeline: "lab",
    from: at("2026-05-10T00:00:00Z"),
    until: at("2026-05-25T23:00:00Z"),
  });
  if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
  await advanceBackfills(bench.context, queues[0]!);
  await stopBackfill(bench.context, ordered.value.id);
  await advanceBackfills(bench.context, queues[0]!);
  expect(await backfillRuns(bench.context.store.db, ordered.value.id)).toEqual({
    queued: 0,
    running: 0,
    done: 0,
    failed: 0,
    cancelled: 2,
  });
});

test.each([
  [
    "a range that ends before it begins",
    { from: at("2026-05-02T00:00:00Z"), until: at("2026-05-01T00:00:00Z") },
    "bad_range",
  ],
  [
    "a range that reaches into the future",
    { from: TEST_NOW, until: new Date(TEST_NOW.getTime() + 86_400_000) },
    "bad_range",
  ],
  [
    "more times than anybody means",
    { from: at("2026-01-01T00:00:00Z"), until: TEST_NOW, cron: "* * * * *" },
    "bad_range",
  ],
  [
    "no time in the range",
    { from: at("2026-05-01T07:00:00Z"), until: at("2026-05-01T08:00:00Z") },
    "bad_range",
  ],
  [
    "a schedule that means nothing",
    { from: at("2026-05-01T00:00:00Z"), until: TEST_NOW, cron: "nightly" },
    "bad_cron",
  ],
  [
    "a delivery that is not there",
    { from: at("2026-05-01T00:00:00Z"), until: TEST_NOW, delivery: "attic" },
    "no_delivery",
  ],
])("%s is refused with words", async (_what, order, code) => {
  const ordered = await orderBackfill(bench.context, { pipeline: "lab", ...order });
  expect(ordered.ok ? [] : ordered.problems.map((problem) => problem.code)).toEqual([code]);
});

test("times of a range have both ends", () => {
  expect(
    slotsFrom(
      "0 6 * * *",
      "UTC",
      { from: at("2026-05-01T06:00:00Z"), until: at("2026-05-03T06:00:00Z") },
      10,
    ),
  ).toHaveLength(3);
});
