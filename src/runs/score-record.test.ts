import { newestVersion, findPipeline, versionById } from "@/store/pipelines";
import { addRun, askCancel, runById, runRecord } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { until } from "../../testing/installation";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { executeRun } from "./execute";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
});
afterAll(() => bench.close());

const later = (minutes: number): Date => new Date(TEST_NOW.getTime() + minutes * 60_000);

test("a run records the file that it followed, and says what of a newer one waits", async () => {
  const { db } = bench.context.store;
  await bench.sql(labTable({ rows: 400 }));
  await bench.save(labFile({ name: "followed", delivery: "{name: desk, table: predictions.followed}" }));
  await bench.train("followed");
  const numberOf = async (at: Date) => {
    const run = await bench.run("score", "followed", { at });
    expect(run).toMatchObject({ state: "done", rows: 80 });
    const { log } = await runRecord(db, run.id);
    return {
      file: (await versionById(db, run.pipelineVersionId))!.number,
      says: log.some((line) => line.message.includes("so this run follows file version 1")),
    };
  };
  expect(await numberOf(later(0))).toEqual({ file: 1, says: false });
  await bench.save(
    labFile({
      name: "followed",
      steps: "- {do: derive, columns: {x3: x1 * x1}}",
      delivery: "{name: desk, table: predictions.elsewhere}",
    }),
  );
  expect(await numberOf(later(1))).toEqual({ file: 1, says: true });
  expect(await bench.sql("SELECT to_regclass('predictions.elsewhere') AS found")).toEqual([{ found: null }]);
  // Another delivery alone is followed at once.
  await bench.save(labFile({ name: "followed", delivery: "{name: desk, table: predictions.moved}" }));
  expect(await numberOf(later(2))).toEqual({ file: 3, says: false });
});

test("a cancel that comes when rows have landed says that they have", async () => {
  const { db } = bench.context.store;
  await bench.sql(labTable({ table: "lab.late_rows", rows: 400 }));
  // Once rows have landed, whoever reads the source has to wait.
  await bench.sql(`CREATE TABLE lab.landed (n integer);
    CREATE FUNCTION lab.nap() RETURNS boolean LANGUAGE plpgsql STABLE AS $$ BEGIN IF EXISTS (SELECT FROM lab.landed) THEN PERFORM pg_sleep(120); END IF; RETURN true; END $$;
    CREATE VIEW lab.late AS SELECT * FROM lab.late_rows WHERE lab.nap();
    GRANT SELECT ON lab.landed, lab.late TO public`);
  await bench.save(
    labFile({
      name: "late",
      from: "lab.late",
      delivery: "{name: desk, table: predictions.late, mode: append}",
    }),
  );
  await bench.train("late");
  expect(await bench.run("score", "late")).toMatchObject({ state: "done", rows: 80 });
  await bench.sql(`CREATE FUNCTION lab.note() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER AS $$ BEGIN INSERT INTO lab.landed VALUES (1); RETURN NULL; END $$;
    CREATE TRIGGER noted AFTER INSERT ON predictions.late FOR EACH STATEMENT EXECUTE FUNCTION lab.note()`);
  const { id } = (await findPipeline(db, "late"))!;
  const ordered = (await addRun(db, {
    kind: "score",
    pipelineId: id,
    pipelineVersionId: (await newestVersion(db, id))!.id,
    cause: "hand",
    runTime: later(1440),
  }))!;
  const executed = executeRun(bench.context, ordered.id, "test");
  await until("the step after the landing", async () =>
    (await runRecord(db, ordered.id)).steps.some(
      (step) => step.name.startsWith("compare earlier predictions") && step.state === "running",
    ),
  );
  await askCancel(db, ordered.id);
  await executed;
  const run = (await runById(db, ordered.id))!;
  expect(run).toMatchObject({ state: "done", rows: 80 });
  expect(run.outcome).toContain("80 rows into predictions.late, version 1; cancelled after they had landed");
  expect(await bench.sql("SELECT count(*)::int AS n FROM predictions.late")).toEqual([{ n: 160 }]);
});
