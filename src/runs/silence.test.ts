import { labFile, labTable } from "../../testing/lab";
import { until } from "../../testing/installation";
import { openBench, type Bench } from "../../testing/warehouse";
import { Way } from "../../testing/way";
import { PostgresWarehouse } from "@/warehouse/postgres/warehouse";
import { runById, waitingRuns } from "@/store/runs";
import type { Context } from "./context";
import { executeRun } from "./execute";
import { isConnectionLoss } from "./failure";

let bench: Bench;
let way: Way;
let warehouse: PostgresWarehouse;
let context: Context;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 400 }));
  await bench.save(labFile());
  const { config } = bench.context.warehouse;
  way = new Way(config.reader.port);
  const port = await way.open();
  warehouse = new PostgresWarehouse(
    { ...config, reader: { ...config.reader, port }, writer: { ...config.writer, port } },
    400,
  );
  context = { ...bench.context, warehouse };
});
afterAll(async () => {
  way.close();
  await warehouse.end();
  await bench.close();
});

test("a statement may take long as long as the warehouse answers; when it falls silent, whoever waits is told, and nobody begins to wait", async () => {
  // Longer than a silent warehouse would be waited for.
  await expect(warehouse.read("SELECT pg_sleep(3)")).resolves.toHaveLength(1);
  const waiting = warehouse.read("SELECT pg_sleep(60)");
  const session = await warehouse.session();
  const asked = session.run("SELECT pg_sleep(60)", "wait");
  way.fallSilent();
  for (const item of [waiting, asked]) {
    const error: unknown = await item.then(
      () => undefined,
      (found: unknown) => found,
    );
    expect(isConnectionLoss(error)).toBe(true);
  }
  session.release(true);
  const begun = Date.now();
  await expect(warehouse.read("SELECT 1")).rejects.toThrow("does not respond");
  expect(Date.now() - begun).toBeLessThan(1000);
  way.speak();
  await until("an answer", async () => (await warehouse.read("SELECT 1")).length);
});

test("a run waits for a silent warehouse and says so, however often it is looked for, and then goes on", async () => {
  const { db, pool } = context.store;
  await bench.sql(
    "CREATE FUNCTION lab.slow(n int) RETURNS int LANGUAGE plpgsql VOLATILE AS 'BEGIN PERFORM pg_sleep(0.004); RETURN n; END'; GRANT EXECUTE ON FUNCTION lab.slow TO PUBLIC; CREATE VIEW lab.slowly AS SELECT *, lab.slow(id) AS late FROM lab.rows; GRANT SELECT ON lab.slowly TO PUBLIC",
  );
  await bench.save(labFile({ name: "slow", from: "lab.slowly" }));
  const { rows } = await pool.query<{ id: string }>(
    "INSERT INTO runs (kind, pipeline_id, pipeline_version_id, cause, run_time) SELECT 'train', p.id, v.id, 'hand', now() FROM pipelines p JOIN pipeline_versions v ON v.pipeline_id = p.id WHERE p.name = 'slow' RETURNING id",
  );
  const { id } = rows[0]!;
  const first = executeRun(context, id, "one");
  await until("the middle of the run", async () => {
    const { rows: steps } = await pool.query(
      "SELECT 1 FROM run_steps WHERE run_id = $1 AND name LIKE 'record%'",
      [id],
    );
    return steps.length > 0;
  });
  way.fallSilent();
  await first;
  const waits = async (): Promise<void> => {
    expect(await runById(db, id)).toMatchObject({
      state: "queued",
      waitsFor: "The warehouse is unreachable; the run continues when it is back.",
      problems: [],
    });
  };
  await waits();
  for (let time = 0; time < 6; time += 1) {
    await pool.query("UPDATE runs SET not_before = now() WHERE id = $1", [id]);
    expect((await waitingRuns(db)).map((waitingRun) => waitingRun.id)).toContain(id);
    await executeRun(context, id, "two");
    await waits();
  }
  const { rows: said } = await pool.query(
    "SELECT 1 FROM run_log WHERE run_id = $1 AND message LIKE '%is unreachable%'",
    [id],
  );
  expect(said).toHaveLength(1);
  way.speak();
  await until("an answer", async () => (await warehouse.read("SELECT 1")).length);
  await pool.query("UPDATE runs SET not_before = now() WHERE id = $1", [id]);
  await executeRun(context, id, "three");
  expect(await runById(db, id)).toMatchObject({ state: "done" });
});
