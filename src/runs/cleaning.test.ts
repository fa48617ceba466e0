import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { runRecord } from "@/store/runs";
import { readCleaned, setKeeping } from "@/store/settings";
import { cleanUp } from "./cleaning";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  await bench.save(labFile());
  await bench.train("lab");
});
afterAll(() => bench.close());

const scratch = async () =>
  (
    await bench.sql(
      "SELECT relname FROM pg_class WHERE relnamespace = 'scratch'::regnamespace AND relkind = 'r' AND relname !~ '^(holdout|trained)' ORDER BY 1",
    )
  ).map((row) => String(row["relname"]));
const age = (id: string, interval: string) =>
  bench.context.store.pool.query("UPDATE runs SET finished_at = now() - $2::interval WHERE id = $1", [
    id,
    interval,
  ]);

test("what a crash left behind goes, what runs running use stays, and so does what nobody here made", async () => {
  const done = await bench.run("score", "lab");
  const under = await bench.run("score", "lab");
  await bench.context.store.pool.query(
    "UPDATE runs SET state = 'running', finished_at = NULL WHERE id = $1",
    [under.id],
  );
  const name = (run: string): string => `stage_${run.replaceAll("-", "")}_1`;
  const [ours, used, foreign] = [name(done.id), name(under.id), "stage_of_somebody_else"];
  for (const text of [ours, used, foreign])
    await bench.sql(
      `CREATE TABLE scratch.${text} (id int); ALTER TABLE scratch.${text} OWNER TO ${bench.context.warehouse.config.writer.user}`,
    );
  expect(await cleanUp(bench.context)).toMatchObject({ tables: 1 });
  expect(await scratch()).toEqual([used, foreign].sort());
  expect(await readCleaned(bench.context.store.db)).toMatchObject({ tables: 1 });
  await bench.sql(`DROP TABLE scratch.${used}, scratch.${foreign}`);
  await bench.context.store.pool.query("UPDATE runs SET state = 'done', finished_at = now() WHERE id = $1", [
    under.id,
  ]);
});

test("staged rows of a failed run stay for as long as the rule says", async () => {
  // Somebody's rule refuses the rows: the move fails after they are complete.
  await bench.sql("ALTER TABLE predictions.lab ADD CONSTRAINT none CHECK (model_version < 0) NOT VALID");
  const failed = await bench.run("score", "lab", { at: new Date("2026-07-01T12:00:00Z") });
  await bench.sql("ALTER TABLE predictions.lab DROP CONSTRAINT none");
  expect(failed.state).toBe("failed");
  expect(await scratch()).toHaveLength(1);
  await cleanUp(bench.context);
  expect(await scratch()).toHaveLength(1);
  await age(failed.id, "25 hours");
  await cleanUp(bench.context);
  expect(await scratch()).toEqual([]);
});

test("statements and logs of old runs go; steps and the run stay", async () => {
  const run = await bench.run("score", "lab", { at: new Date("2026-07-02T12:00:00Z") });
  await age(run.id, "31 days");
  await cleanUp(bench.context);
  expect((await runRecord(bench.context.store.db, run.id)).log.length).toBeGreaterThan(0);
  await setKeeping(bench.context.store.db, { recordDays: 30, stageHours: 24 });
  expect(await cleanUp(bench.context)).toMatchObject({ runs: 1 });
  const { log, steps } = await runRecord(bench.context.store.db, run.id);
  expect(log).toEqual([]);
  expect(steps.length).toBeGreaterThan(5);
});
