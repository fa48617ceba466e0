import { runRecord } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
});
afterAll(() => bench.close());

const later = (days: number): Date => new Date(TEST_NOW.getTime() + days * 86_400_000);

test("a table is judged before anything is scored, by what its rules are and not by how they are written", async () => {
  await bench.save(
    labFile({
      name: "judged",
      delivery: "{name: desk, table: predictions.judged, mode: upsert, columns: [x1]}",
    }),
  );
  await bench.train("judged");
  expect((await bench.run("score", "judged", { at: later(0) })).state).toBe("done");
  // A unique index that brings another column along, and rows that somebody wrote without a time.
  await bench.sql(
    "ALTER TABLE predictions.judged DROP CONSTRAINT judged_pkey; CREATE UNIQUE INDEX judged_id ON predictions.judged (id) INCLUDE (probability); UPDATE predictions.judged SET run_time = NULL, probability = 7 WHERE id % 10 = 0",
  );
  const second = await bench.run("score", "judged", { at: later(1) });
  expect([second.state, second.rows]).toEqual(["done", 400]);
  expect(
    await bench.sql("SELECT count(*)::integer AS old FROM predictions.judged WHERE probability = 7"),
  ).toEqual([{ old: 0 }]);
  // One over an expression of the key does not tell rows apart by the key.
  await bench.sql(
    "DROP INDEX predictions.judged_id; CREATE UNIQUE INDEX judged_id ON predictions.judged ((id + 0))",
  );
  const third = await bench.run("score", "judged", { at: later(2) });
  expect(third.problems[0]).toMatchObject({
    code: "target_misfit",
    message: expect.stringContaining("no unique key over id") as string,
  });
  const { steps } = await runRecord(bench.context.store.db, third.id);
  expect(steps.at(-1)).toMatchObject({ name: "check the prediction tables", state: "failed" });
});
