import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { contractChoices } from "@/core/files/contract-choices";
import { unwrap } from "@/core/problem";
import { listAlerts } from "@/store/alerts";
import { runById, runRecord } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { executeRun } from "./execute";
import { rowFields, tryRow } from "./judging/try-row";
import { loadFile } from "./import/load";
import { lookAtFile } from "./import/look-at-file";
import { contractOnDemand, orderOnDemand } from "./on-demand";
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
      Object.fromEntries(fields.map((field) => [field.name, text(field.name)])),
    );
    expect(tried.prediction[0]).toBeCloseTo(Number(row["probability"]), 9);
    expect(tried.predictor).toBeCloseTo(logit(Number(row["probability"])), 9);
    for (const reason of reasons)
      expect(tried.explained.parts.find((part) => part.column === reason.column)!.value).toBeCloseTo(
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
  ["rows without the columns of the features", { table: "lab.narrow" }, "columns_lacking"],
  ["a category that has become yes or no", { table: "lab.retyped" }, "columns_retyped"],
  ["a column that is not there", { columns: ["colour"] }, "unknown_column"],
])("%s is refused before anything runs", async (_what, more, code) => {
  await bench.sql("CREATE TABLE IF NOT EXISTS lab.narrow AS SELECT id, x1 FROM lab.rows");
  await bench.sql(
    "CREATE TABLE IF NOT EXISTS lab.retyped AS SELECT id, site, x1, x2, seen, cat = 'oak' AS cat FROM lab.rows",
  );
  const ordered = await order(more);
  expect(ordered.ok ? [] : ordered.problems.map((problem) => problem.code)).toEqual([code]);
});

test("rows that the steps leave out are counted", async () => {
  await bench.save(labFile({ name: "picky", steps: "- {do: filter, where: x1 > 0}" }));
  const picky = await bench.train("picky");
  const ordered = await order({ pipeline: "picky", modelId: picky.id, into: "predictions.picky" });
  if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
  await executeRun(bench.context, ordered.value.id, "test");
  const [{ left } = {}] = await bench.sql("SELECT count(*)::int AS left FROM lab.rows WHERE x1 <= 0");
  expect((await runById(bench.context.store.db, ordered.value.id))!.outcome).toContain(
    `steps dropped ${Number(left).toLocaleString("en-US")} of 2,000 rows`,
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

/** Orders rows on demand and lets them run. */
async function scored(more: Partial<Parameters<typeof orderOnDemand>[2]>) {
  const ordered = await order(more);
  if (!ordered.ok) throw new Error(ordered.problems.map((found) => found.message).join("; "));
  await executeRun(bench.context, ordered.value.id, "test");
  return (await runById(bench.context.store.db, ordered.value.id))!;
}

test("rows need neither the answer nor what only training reads, and may have narrower numbers", async () => {
  await bench.sql(
    "CREATE TABLE lab.bare AS SELECT id::smallint AS id, x1::numeric AS x1, x2::real AS x2, cat::varchar(10) AS cat, site FROM lab.rows",
  );
  await bench.sql("ALTER TABLE lab.bare DROP COLUMN site");
  expect(await scored({ table: "lab.bare", into: "predictions.bare" })).toMatchObject({
    state: "done",
    rows: 2000,
    answers: null,
  });
  const [same] = await bench.sql(
    "SELECT count(*)::int AS rows, max(abs(b.probability - p.probability)) < 1e-6 AS equal FROM predictions.bare b JOIN predictions.lab p USING (id)",
  );
  expect(same).toEqual({ rows: 400, equal: true });
  const names = await bench.sql(
    "SELECT column_name FROM information_schema.columns WHERE table_schema = 'predictions' AND table_name = 'bare'",
  );
  expect(names.map((found) => found["column_name"])).not.toContain("answer");
});

test("rows that have the answer tell which predictions are right, and the figures", async () => {
  const run = await scored({ table: "lab.rows", into: "predictions.answered" });
  const [counted] = await bench.sql(
    `SELECT count(*) FILTER (WHERE a.correct)::int AS correct, count(a.answer)::int AS answered,
      bool_and(a.answer IS NOT DISTINCT FROM r.answer) AS kept, bool_and(a.correct IS NOT DISTINCT FROM (r.answer = (a.probability >= 0.5))) AS judged
      FROM predictions.answered a JOIN lab.rows r USING (id)`,
  );
  expect(counted).toEqual({ correct: run.answers!.correct, answered: 1600, kept: true, judged: true });
  const [pairs] = await bench.sql(
    `SELECT avg(CASE WHEN p.probability > n.probability THEN 1 WHEN p.probability = n.probability THEN 0.5 ELSE 0 END)::float8 AS auc
      FROM predictions.answered p, predictions.answered n WHERE p.answer AND NOT n.answer`,
  );
  expect(run.answers!.figures.auc).toBeCloseTo(Number(pairs!["auc"]), 9);
  expect(run.answers!.figures.accuracy).toBeCloseTo(Number(counted!["correct"]) / 1600, 12);
});

test("values that is unseen in training stop rows on demand, unless that is asked for; a few are told with examples", async () => {
  await bench.sql("CREATE TABLE lab.strange AS SELECT id, x1, x2, upper(cat) AS cat FROM lab.rows");
  expect(await scored({ table: "lab.strange", into: "predictions.stopped" })).toMatchObject({
    state: "failed",
    problems: [
      {
        code: "contract_all_unseen",
        message: expect.stringMatching(/"cat".*for example \d+ \/ [A-Z]+/) as string,
      },
    ],
  });
  expect(
    await scored({ table: "lab.strange", allUnseen: "warn", into: "predictions.strange" }),
  ).toMatchObject({ state: "done" });
  await bench.sql(
    "CREATE TABLE lab.half AS SELECT id, x1, x2, CASE WHEN id % 2 = 0 THEN 'palm' ELSE cat END AS cat FROM lab.rows",
  );
  const half = await scored({ table: "lab.half", into: "predictions.half" });
  const { log } = await runRecord(bench.context.store.db, half.id);
  expect(log.filter((line) => line.level === "warning").map((line) => line.message)).toEqual([
    expect.stringMatching(/50 % of the rows to score have a "cat".*for example \d+ \/ palm/),
  ]);
});

test("a file is read in the types of the training, whatever its values look like, and what does not fit is a reject", async () => {
  await bench.sql(
    labTable({ table: "lab.votes" })
      .replaceAll("'oak', 'elm', 'ash', NULL, 'fir'", "'Yes', 'No', 'No', NULL, 'Yes'")
      .replaceAll("'oak'", "'Yes'")
      .replaceAll("'elm'", "'No'"),
  );
  await bench.save(labFile({ name: "votes", from: "lab.votes" }));
  const votes = await bench.train("votes");
  const rows = await bench.sql("SELECT id, x1, x2, cat FROM lab.votes WHERE id <= 300 ORDER BY id");
  const lines = rows.map((row) =>
    [row["cat"] ?? "", row["x2"] ?? "", "unused", row["id"], row["x1"]].join(","),
  );
  lines[6] = "Yes,many,unused,7,1";
  const file = path.join(mkdtempSync(path.join(tmpdir(), "ravlen-")), "votes.csv");
  writeFileSync(file, ["cat,x2,more,id,x1", ...lines].join("\n"));
  const contract = unwrap(await contractOnDemand(bench.context, { pipeline: "votes", modelId: votes.id }));
  expect(contract.needed.map((wanted) => wanted.name)).toEqual(["id", "x1", "x2", "cat"]);
  expect(contract.answer.map((wanted) => wanted.name)).toEqual(["answer"]);
  const look = await lookAtFile(file, "votes.csv", { text: { header: true } });
  const choices = unwrap(contractChoices(look, contract));
  const loaded = await loadFile(
    bench.context.warehouse,
    file,
    look,
    { ...choices, table: "votes_file", mode: "new", misfits: "reject" },
    { onProgress: () => undefined, signal: new AbortController().signal, rejectsFile: "" },
  );
  expect(loaded).toMatchObject({
    rows: 299,
    rejected: 1,
    misfits: [{ line: 8, reason: "x2: “many” is not a number" }],
  });
  const run = await scored({
    pipeline: "votes",
    modelId: votes.id,
    table: `${loaded.table.schema}.${loaded.table.table}`,
    into: "predictions.file",
  });
  expect(run).toMatchObject({ state: "done", rows: 299 });
  await scored({ pipeline: "votes", modelId: votes.id, table: "lab.votes", into: "predictions.same" });
  const [same] = await bench.sql(
    "SELECT count(*)::int AS rows, max(abs(f.probability - s.probability)) < 1e-12 AS equal FROM predictions.file f JOIN predictions.same s USING (id)",
  );
  expect(same).toEqual({ rows: 299, equal: true });
});
