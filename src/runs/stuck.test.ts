import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 3000 }));
});
afterAll(() => bench.close());

test("a run in which nothing moves is ended, says so, and leaves nothing behind", async () => {
  const columns = Array.from({ length: 40 }, (_, index) => `f${index}: "sin(id * ${index + 2}.37)"`).join(
    ", ",
  );
  await bench.save(
    labFile({ name: "stuck", steps: `- {do: derive, columns: {${columns}}}` }).replace(
      "algorithm: logistic_regression, settings: {}",
      "algorithm: nearest_neighbours, settings: {most_rows: 20000}",
    ),
  );
  // Explaining a model of so many neighbours says nothing for longer than that between two columns.
  process.env["RAVLEN_STUCK_MINUTES"] = "0.0005";
  try {
    const run = await bench.run("train", "stuck");
    expect(run.state).toBe("failed");
    expect(run.problems[0]).toMatchObject({ code: "stuck" });
    expect(run.modelId).toBeNull();
    expect(await bench.sql("SELECT tablename FROM pg_tables WHERE schemaname = 'scratch'")).toEqual([]);
  } finally {
    delete process.env["RAVLEN_STUCK_MINUTES"];
  }
});
