import { labFile, labTable } from "../../../testing/lab";
import { runRecord, runStatementsOf } from "@/store/runs";
import { openBench, type Bench } from "../../../testing/warehouse";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  // Columns that give the answer away, one that is nearly a key, and rows that stand on both sides of the border.
  await bench.sql(`CREATE TABLE lab.leaky AS SELECT *, CASE WHEN answer THEN 1 + (id % 3) ELSE 0 END AS reminders, CASE WHEN answer THEN 'late' WHEN NOT answer THEN 'kept' END AS verdict, 'n' || id AS label, round(x1 * 7)::integer AS noise FROM lab.rows;
    ALTER TABLE lab.leaky ADD PRIMARY KEY (id);
    CREATE TABLE lab.doubled AS SELECT id + 100000 * copy AS id, site, x1, x2, cat, seen, answer, round(x1 * 10) AS x4 FROM lab.rows, generate_series(0, 1) copy`);
});
afterAll(() => bench.close());

/** Codes of what the guard found about each feature, after a training. */
async function foundIn(
  name: string,
  options: Parameters<typeof labFile>[0],
  learner = "logistic_regression",
): Promise<readonly string[]> {
  const settings = learner === "base_rate" ? "{most_levels: 5000}" : "{most_levels: 5000, ridge: 0.1}";
  const delivery = `{name: desk, table: predictions.${name.replaceAll("-", "_")}}`;
  await bench.save(labFile({ name, settings, delivery, ...options }).replace("logistic_regression", learner));
  const model = await bench.train(name);
  return model.judgement!.findings.map((finding) => `${finding.code} ${finding.feature ?? ""}`.trim());
}

const logOf = async (run: string): Promise<readonly string[]> =>
  (await runRecord(bench.context.store.db, run)).log.map((line) => line.message);

/** Leaves all but some of the columns out. */
const only = (...kept: readonly string[]): string =>
  `- {do: keep, columns: [id, site, seen, answer, ${kept.join(", ")}]}`;

test("honest columns are not suspected; a holdout that ignores time is, and one by time is not", async () => {
  expect(await foundIn("honest", {})).toEqual(["time_order_broken"]);
  expect(await foundIn("honest-in-time", { holdout: "{by: time, from: '2026-05-20'}" })).toEqual([]);
});

test.each(["reminders", "verdict"])("a column that gives a yes or no away is named: %s", async (column) => {
  expect(
    await foundIn(`leak-${column}`, { from: "lab.leaky", steps: only("x1", "x2", "noise", column) }),
  ).toContain(`alone_too_strong ${column}`);
});

test("a text that nearly names the row is told from one that gives the answer away", async () => {
  const found = await foundIn(
    "nearly-a-key",
    { from: "lab.leaky", steps: only("x1", "x2", "label") },
    "base_rate",
  );
  expect(found).toContain("nearly_a_key label");
  expect(found).not.toContain("alone_too_strong label");
});

test("equal rows on both sides of the border are counted", async () => {
  expect(await foundIn("doubled", { from: "lab.doubled" })).toContain("equal_across_border");
});

test("above 400,000 rows some holdout rows are held against all training rows, and what is found says of how many", async () => {
  await bench.sql(
    `${labTable({ table: "lab.many", rows: 260_000, answer: "u < 0.4" })} CREATE TABLE lab.many_twice AS SELECT id + 1000000 * copy AS id, site, x1, x2, cat, seen, answer, u.x4 FROM lab.many, generate_series(0, 1) copy, LATERAL (SELECT round(x1 * 10) AS x4) u`,
  );
  await bench.save(
    labFile({
      name: "many-twice",
      from: "lab.many_twice",
      holdout: "{share: 0.02, seed: 5}",
      delivery: "{name: desk, table: predictions.many_twice}",
    }).replace("algorithm: logistic_regression", "algorithm: base_rate"),
  );
  const { judgement, runId } = await bench.train("many-twice");
  expect(await logOf(runId)).toContain(
    "The guard checked single features on about 50,000 of 416,000 rows, drawn at random.",
  );
  expect(judgement!.findings.find((found) => found.code === "equal_across_border")?.message).toMatch(
    /^98\.\d+ % of 7,\d{3} holdout rows, drawn from 8,\d{3}, equal a training row/,
  );
});

test("many features are looked at in one pass", async () => {
  const noise = Array.from({ length: 150 }, (_, index) => `f${index}: "sin(id * ${index + 2}.37)"`).join(
    ", ",
  );
  const file = labFile({
    name: "one-pass",
    from: "lab.leaky",
    steps: `- {do: derive, columns: {${noise}}}\n- {do: drop, columns: [reminders, label]}`,
    delivery: "{name: desk, table: predictions.one_pass}",
  });
  await bench.save(file.replace("algorithm: logistic_regression", "algorithm: base_rate"));
  const { judgement, runId } = await bench.train("one-pass");
  const passes = (await runStatementsOf(bench.context.store.db, runId)).filter((statement) =>
    statement.purpose.endsWith("alone against the target"),
  );
  expect(passes).toHaveLength(1);
  expect(judgement!.findings.map((finding) => `${finding.code} ${finding.feature}`)).toContain(
    "alone_too_strong verdict",
  );
});

test("a leak is found behind two hundred columns of noise", async () => {
  const noise = Array.from({ length: 210 }, (_, index) => `f${index}: "sin(id * ${index + 2}.37)"`).join(
    ", ",
  );
  expect(
    await foundIn("leak-behind", {
      from: "lab.leaky",
      steps: `- {do: derive, columns: {${noise}}}\n- {do: derive, columns: {late: "reminders * 2.5"}}\n- {do: drop, columns: [reminders, verdict, label]}`,
      settings: "{ridge: 0.1}",
    }),
  ).toContain("alone_too_strong late");
});
