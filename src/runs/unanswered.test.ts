import { runRecord } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
});
afterAll(() => bench.close());

test("rows that cannot be predicted are excluded where the delivery says so, by number and name", async () => {
  await bench.sql(labTable({ table: "lab.gaps" }));
  await bench.save(
    labFile({
      name: "gaps",
      from: "lab.gaps",
      delivery: "{name: desk, table: predictions.gaps, contract: {unanswered: leave_out}}",
    }),
  );
  await bench.train("gaps");
  await bench.sql("UPDATE lab.gaps SET x1 = NULL WHERE answer IS NULL AND id % 25 = 0");
  const run = await bench.run("score", "gaps");
  const [{ n: gaps } = {}] = await bench.sql("SELECT count(*)::int AS n FROM lab.gaps WHERE x1 IS NULL");
  expect(run).toMatchObject({ state: "done", rows: 400 - Number(gaps) });
  expect(run.outcome).toContain(`; ${String(gaps)} rows could not be predicted`);
  const { log } = await runRecord(bench.context.store.db, run.id);
  expect(log.map(({ message }) => message).join("\n")).toContain("is missing: id 25; 50; 75 and others.");
  const [row] = await bench.sql(
    "SELECT count(*)::int AS n, count(*) FILTER (WHERE g.x1 IS NULL OR p.prediction IS NULL)::int AS bad FROM predictions.gaps p JOIN lab.gaps g USING (id)",
  );
  expect(row).toEqual({ n: 400 - Number(gaps), bad: 0 });
});
