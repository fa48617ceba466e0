import { listAlerts } from "@/store/alerts";
import { runById } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { executeRun } from "./execute";
import { rowFields, tryRow } from "./judging/try-row";
import { orderOnDemand } from "./on-demand";
import { openQueue } from "./queue";

let bench: Bench;
let boss: Awaited<ReturnType<typeof openQueue>>;
let model: Awaited<ReturnType<Bench["train"]>>;
beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "sender", () => undefined);
  await bench.sql(labTable());
  await bench.save(
    labFile({ delivery: "{name: desk, table: predictions.lab, reasons: 2, columns: [x1, cat]}" }),
  );
  model = await bench.train("lab");
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
});

const order = (more: Partial<Parameters<typeof orderOnDemand>[2]>) =>
  orderOnDemand(bench.context, boss, { pipeline: "lab", table: "lab.rows", cause: "hand", ...more });
const logit = (probability: number): number => Math.log(probability / (1 - probability));

test("reasons are delivered beside predictions, and agree with what the row's own form says", async () => {
  const run = await bench.run("score", "lab");
  expect(run).toMatchObject({ state: "done", rows: 400 });
  const rows = await bench.sql(
    "SELECT id, probability, reasons, x1, x2, cat FROM predictions.lab JOIN (SELECT id, x2 FROM lab.rows) r USING (id) ORDER BY id LIMIT 5",
  );
  for (const row of rows) {
    const reasons = row["reasons"] as { column: string; value: unknown; part: number }[];
    expect(reasons).toHaveLength(2);
    expect(Math.abs(reasons[0]!.part)).toBeGreaterThanOrEqual(Math.abs(reasons[1]!.part));
    const text = (name: string): string | null => (row[name] === null ? null : String(row[name]));
    const fields = await rowFields(bench.context, model.id);
    const tried = await tryRow(
      bench.context,
      model.id,
      Object.fromEntries(fields.map((each) => [each.name, text(each.name)])),
    );
    expect(tried.prediction[0]).toBeCloseTo(Number(row["probability"]), 9);
    expect(tried.predictor).toBeCloseTo(logit(Number(row["probability"])), 9);
    for (const reason of reasons)
      expect(tried.explained.parts.find((each) => each.column === reason.column)!.value).toBeCloseTo(
        reason.part,
        4,
      );
  }
});

test("a row with a missing value and a category never seen has a prediction too; a value of another type is refused with words", async () => {
  const tried = await tryRow(bench.context, model.id, { x1: "1.5", x2: null, cat: "palm" });
  expect(tried.says).toMatch(/^(yes|no), with a probability of 0\.\d{3}/);
  await expect(tryRow(bench.context, model.id, { x1: "many", x2: null, cat: "oak" })).rejects.toMatchObject({
    code: "22P02",
  });
});

test("a table chosen now is scored as a delivery would score it, into a table of its own, whatever the rows' answers", async () => {
  await bench.run("score", "lab");
  const ordered = await order({ columns: ["x1", "seen"], into: "predictions.chosen" });
  if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
  await executeRun(bench.context, ordered.value.id, "test");
  expect(await runById(bench.context.store.db, ordered.value.id)).toMatchObject({
    state: "done",
    rows: 2000,
    problems: [],
  });
  const [same] = await bench.sql(
    "SELECT count(*)::int AS rows, max(abs(c.probability - p.probability)) < 1e-9 AS equal FROM predictions.chosen c JOIN predictions.lab p USING (id)",
  );
  expect(same).toEqual({ rows: 400, equal: true });
  expect((await bench.sql("SELECT count(seen)::int AS n FROM predictions.chosen"))[0]).toEqual({ n: 2000 });
});

test.each([
  ["a table that is not there", { table: "lab.nowhere" }, "unknown_table"],
  ["a table that is there already", { into: "predictions.lab" }, "table_exists"],
  ["a table elsewhere", { into: "lab.mine" }, "delivery_schema"],
  ["rows without the columns that the steps read", { table: "lab.narrow" }, "columns_lacking"],
  ["a column that is not there", { columns: ["colour"] }, "unknown_column"],
])("%s is refused before anything runs", async (_what, more, code) => {
  await bench.sql("CREATE TABLE IF NOT EXISTS lab.narrow AS SELECT id, x1 FROM lab.rows");
  const ordered = await order(more);
  expect(ordered.ok ? [] : ordered.problems.map((each) => each.code)).toEqual([code]);
});

test("rows that the steps leave out are counted", async () => {
  await bench.save(labFile({ name: "picky", steps: "- {do: filter, where: x1 > 0}" }));
  const picky = await bench.train("picky");
  const ordered = await order({ pipeline: "picky", modelId: picky.id, into: "predictions.picky" });
  if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
  await executeRun(bench.context, ordered.value.id, "test");
  const [{ left } = {}] = await bench.sql("SELECT count(*)::int AS left FROM lab.rows WHERE x1 <= 0");
  expect((await runById(bench.context.store.db, ordered.value.id))!.outcome).toContain(
    `the steps left out ${Number(left).toLocaleString("en-US")} of 2,000 rows`,
  );
});

test("rows on demand that fail wake nobody", async () => {
  await bench.sql(
    "CREATE TABLE lab.twice AS SELECT * FROM lab.rows UNION ALL SELECT * FROM lab.rows WHERE id < 3",
  );
  const ordered = await order({ table: "lab.twice" });
  if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
  await executeRun(bench.context, ordered.value.id, "test");
  expect(await runById(bench.context.store.db, ordered.value.id)).toMatchObject({
    state: "failed",
    problems: [expect.objectContaining({ code: "key_repeats" })],
  });
  expect(await listAlerts(bench.context.store.db, 24)).toEqual([]);
});
