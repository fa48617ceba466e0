import { labFile, labTable } from "../../../testing/lab";
import { modelAs, openBench, TEST_NOW, type Bench } from "../../../testing/warehouse";
import { modelById, type ModelRow } from "@/store/models";
import { addTrial, trialsOf } from "@/store/searches";
import { findPipeline } from "@/store/pipelines";
import { runById, runRecord } from "@/store/runs";
import { executeRun } from "../execute";
import { openBlindPart } from "../judging/blind";
import { compareVersions } from "../judging/compare";
import { judgedRows, rowReasons } from "../judging/judged-rows";
import { openJudged } from "../judging/judged-table";
import { residualsOf, segmentsOf } from "../judging/segments";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 1200 }));
});
afterAll(() => bench.close());

const candidates = (list: string): string => `candidates:\n${list}`;
const file = (name: string, list: string, change: Parameters<typeof labFile>[0] = {}): string =>
  labFile({ name, ...change }).replace(/candidates: \[.*\]/, candidates(list));

async function trained(name: string, options: Parameters<Bench["run"]>[2] = {}): Promise<ModelRow> {
  const run = await bench.run("train", name, options);
  expect(run.problems).toEqual([]);
  return (await modelById(bench.context.store.db, run.modelId!))!;
}

test("a search tries settings of learner and step over folds, keeps its trials, and goes on where it was when its worker dies", async () => {
  await bench.save(
    file(
      "search",
      "  - {name: tree, algorithm: decision_tree, search: {how: grid, try: [{setting: depth, values: [1, 3]}, {step: gaps, setting: with, values: [median, mean]}]}}",
      { more: "folds: {count: 3, by: stratified}" },
    ).replace(
      "{do: fill, columns: [x2], with: median}",
      "{do: fill, name: gaps, columns: [x2], with: median}",
    ),
  );
  const { db } = bench.context.store;
  const model = await trained("search");
  const trials = await trialsOf(db, model.runId);
  expect(trials.map((trial) => trial.choices.map(({ value }) => value))).toEqual([
    [1, "median"],
    [1, "mean"],
    [3, "median"],
    [3, "mean"],
  ]);
  for (const trial of trials)
    expect(trial.score).toBeCloseTo(trial.folds.reduce((sum, fold) => sum + fold.log_loss!, 0) / 3, 12);
  const best = trials.reduce((one, trial) => (trial.score! < one.score! ? trial : one));
  expect(model.data.search).toMatchObject({
    choices: best.choices,
    score: best.score,
    trials: 4,
    metric: "log_loss",
  });
  expect(model.judgement!.folds).toHaveLength(3);
  // What the search chose for the step is what scoring uses.
  const [gap] = await bench.sql(
    `SELECT ${best.choices[1]!.value === "mean" ? "avg(x2)" : "percentile_cont(0.5) WITHIN GROUP (ORDER BY x2)"} AS fill FROM lab.rows WHERE answer IS NOT NULL AND id NOT IN (SELECT id FROM scratch.${model.data.holdoutTable})`,
  );
  expect((model.learned["0"] as { values: { x2: number } }).values.x2).toBeCloseTo(Number(gap!["fill"]), 10);
  // A second run dies after two trials; whoever takes it up does the other two only.
  const { pipelineVersionId, pipelineId } = model;
  const started = await bench.context.store.pool.query<{ id: string }>(
    "INSERT INTO runs (kind, pipeline_id, pipeline_version_id, cause, run_time, state, attempt, worker, heartbeat_at) VALUES ('train', $1, $2, 'hand', $3, 'running', 1, 'dead', now() - interval '1 hour') RETURNING id",
    [pipelineId, pipelineVersionId, TEST_NOW],
  );
  const runId = started.rows[0]!.id;
  for (const trial of trials.slice(0, 2))
    await addTrial(db, {
      runId,
      number: trial.number,
      choices: trial.choices,
      folds: trial.folds,
      score: trial.score,
      problem: null,
      seconds: 123,
    });
  await executeRun(bench.context, runId, "second");
  expect((await runById(db, runId))!.state).toBe("done");
  const again = await trialsOf(db, runId);
  expect(again.map((trial) => trial.seconds === 123)).toEqual([true, true, false, false]);
  again.forEach((trial, index) => expect(trial.score).toBeCloseTo(trials[index]!.score!, 9));
});

test("folds forward in time are learned from the time before; a blind holdout is opened once, on record", async () => {
  await bench.save(
    file("forward", "  - {name: plain, algorithm: logistic_regression, settings: {ridge: 0.01}}", {
      holdout: "{by: time, from: '2026-05-18', blind: {from: '2026-05-24'}}",
      more: "folds: {count: 3, by: time}",
    }),
  );
  const model = await trained("forward");
  const { folds } = model.judgement!;
  expect(folds.map((fold) => fold.fold)).toEqual([1, 2, 3]);
  const [rows] = await bench.sql(
    `SELECT count(*) FILTER (WHERE seen < '2026-05-18') AS training, count(*) FILTER (WHERE seen >= '2026-05-18' AND seen < '2026-05-24') AS held, count(*) FILTER (WHERE seen >= '2026-05-24') AS blind FROM lab.rows WHERE answer IS NOT NULL`,
  );
  expect([model.data.trainingRows, model.data.holdoutRows].map(String)).toEqual([
    rows!["training"],
    rows!["held"],
  ]);
  expect(folds.reduce((sum, fold) => sum + fold.rows, 0)).toBeLessThan(model.data.trainingRows);
  expect(model.blind).toBeNull();
  await openBlindPart(bench.context, model.id);
  const first = (await modelById(bench.context.store.db, model.id))!.blind!;
  expect(String(first.rows)).toBe(rows!["blind"]);
  await openBlindPart({ ...bench.context, now: () => Promise.resolve(new Date("2027-01-01")) }, model.id);
  expect((await modelById(bench.context.store.db, model.id))!.blind).toEqual(first);
});

test("a version is judged by segment, row and reason, and compared with another row by row", async () => {
  await bench.save(
    file(
      "judged",
      "  - {name: plain, algorithm: logistic_regression, settings: {ridge: 0.001}}\n  - {name: base, algorithm: base_rate}",
    ),
  );
  const [plain, base] = [await trained("judged"), await trained("judged", { candidate: "base" })];
  const { warehouse } = bench.context;
  const judged = await openJudged(bench.context, plain.id);
  const { segments, all } = await segmentsOf(warehouse, judged, "cat");
  expect(all).toBe(segments.length);
  expect(segments.reduce((sum, segment) => sum + segment.rows, 0)).toBe(plain.data.holdoutRows);
  const [oak] = await bench.sql(
    `SELECT count(*)::int AS rows, avg(ravlen_target) AS share FROM scratch.${plain.data.holdoutTable} WHERE cat = 'oak'`,
  );
  expect(segments.find((segment) => segment.label === "oak")).toMatchObject({
    rows: oak!["rows"],
    actual: expect.closeTo(Number(oak!["share"]), 12) as number,
  });
  const wrong = await judgedRows(warehouse, judged, "wrong", { column: "cat", value: "oak" }, 0, 20);
  expect(wrong.rows[0]!.wrong).toBeGreaterThanOrEqual(wrong.rows[1]!.wrong);
  expect(wrong.rows.every((row) => row.values["cat"] === "oak")).toBe(true);
  const border = await judgedRows(warehouse, judged, "borderline", undefined, 0, 5);
  expect(Math.abs(Number(border.rows[0]!.prediction) - 0.5)).toBeLessThan(0.1);
  const ids = (await judgedRows(warehouse, judged, "all", undefined, 0, 60)).rows.map((row) =>
    Number(row.key["id"]),
  );
  expect(ids).toEqual([...ids].sort((left, right) => left - right));
  const reasons = await rowReasons(warehouse, judged, wrong.rows[0]!.key);
  const sum = reasons.explained.parts.reduce((total, part) => total + part.value, reasons.explained.base);
  expect(1 / (1 + Math.exp(-sum))).toBeCloseTo(reasons.prediction[0]!, 9);
  const other = await openJudged(bench.context, base.id);
  const compared = await compareVersions(warehouse, other, judged);
  expect(compared.rows).toBe(plain.data.holdoutRows);
  expect(compared.second.auc).toBeCloseTo(plain.metrics.auc!, 12);
  expect(compared.differences.auc![0]).toBeGreaterThan(0);
  const itself = await compareVersions(warehouse, judged, judged);
  expect(itself.differences.log_loss).toEqual([0, 0]);
});

test("a number is judged along a column", async () => {
  await bench.sql(
    "CREATE TABLE lab.amounts AS SELECT *, 3 * x1 + CASE WHEN id = 7 THEN 1e6 ELSE 0 END AS amount FROM lab.rows; ALTER TABLE lab.amounts ADD PRIMARY KEY (id)",
  );
  await bench.save(
    file(
      "amounts",
      "  - {name: absolute, algorithm: boosted_trees, settings: {loss: absolute, trees: 30, depth: 3}}",
      { from: "lab.amounts", train: "true", score: "false" },
    )
      .replace("target: {column: answer, kind: binary}", "target: {column: amount, kind: number}")
      .replace("      - {do: fill", "      - {do: drop, columns: [answer]}\n      - {do: fill"),
  );
  const model = await trained("amounts");
  // One value of a million moves neither the median nor absolute errors.
  expect(model.judgement!.figures.median_error).toBeLessThan(2);
  const bins = await residualsOf(bench.context.warehouse, await openJudged(bench.context, model.id), "x1");
  expect(bins.length).toBeGreaterThan(10);
  expect(bins.reduce((sum, bin) => sum + bin.rows, 0)).toBe(model.data.holdoutRows);
});

test("a trial on a share of the rows learns from that share, and a trial without a feature does without it", async () => {
  await bench.save(file("tries", "  - {name: tree, algorithm: decision_tree}"));
  const whole = await trained("tries");
  const [share, without] = [
    await trained("tries", { share: 0.3 }),
    await trained("tries", { without: ["x1"] }),
  ];
  expect(share.data.trainingRows / whole.data.trainingRows).toBeGreaterThan(0.2);
  expect(share.data.trainingRows / whole.data.trainingRows).toBeLessThan(0.4);
  expect(share.data.holdoutRows / whole.data.holdoutRows).toBeGreaterThan(0.2);
  expect(share.data.holdoutRows / whole.data.holdoutRows).toBeLessThan(0.4);
  expect(
    modelAs(without, "decision_tree").tree.nodes.some((node) => node.kind !== "leaf" && node.column === "x1"),
  ).toBe(false);
  expect(
    modelAs(whole, "decision_tree").tree.nodes.some((node) => node.kind !== "leaf" && node.column === "x1"),
  ).toBe(true);
});

test("memory too small for streaming is refused beforehand, with the need stated; with another engine it stays in the warehouse", async () => {
  await bench.save(
    file(
      "memory",
      "  - {name: near, algorithm: nearest_neighbours}\n  - {name: tree, algorithm: decision_tree}",
    ),
  );
  process.env["RAVLEN_MEMORY_MB"] = "0.01";
  try {
    const refused = await bench.run("train", "memory");
    expect(refused.problems[0]).toMatchObject({
      code: "needs_memory",
      message: expect.stringMatching(/Streaming [\d,]+ rows of \d+ columns needs about \d+ kB/) as string,
    });
    const kept = await trained("memory", { candidate: "tree" });
    expect(kept.engine).toBe("warehouse");
  } finally {
    delete process.env["RAVLEN_MEMORY_MB"];
  }
});

test.each<readonly [what: string, sql: string, list: string]>([
  [
    "more columns than rows",
    `SELECT id, site, seen, cat, x2, answer${Array.from({ length: 80 }, (_, index) => `, sin(id * ${index + 1}.7) AS f${index}`).join("")} FROM lab.rows WHERE id <= 60`,
    "  - {name: ridge, algorithm: logistic_regression, settings: {ridge: 0.1}}\n  - {name: boosted, algorithm: boosted_trees, settings: {trees: 5, least_rows: 2}}",
  ],
  [
    "all features constant",
    "SELECT id, site, seen, 'one'::text AS cat, 1::double precision AS x2, answer FROM lab.rows",
    "  - {name: plain, algorithm: logistic_regression}\n  - {name: tree, algorithm: decision_tree}\n  - {name: network, algorithm: neural_network, settings: {epochs: 2}}",
  ],
  [
    "infinite and not-a-number values",
    "SELECT id, site, seen, cat, x2, CASE id % 10 WHEN 1 THEN 'Infinity'::double precision WHEN 2 THEN '-Infinity' WHEN 3 THEN 'NaN' ELSE x1 END AS x1, answer FROM lab.rows",
    "  - {name: tree, algorithm: decision_tree}\n  - {name: warehouse, algorithm: boosted_trees, engine: warehouse, settings: {trees: 3, depth: 3}}",
  ],
])("%s: every learner ends with a model", async (what, sql, list) => {
  const name = what.replaceAll(/[^a-z]+/g, "-");
  const table = `lab.${name.replaceAll("-", "_")}`;
  await bench.sql(`CREATE TABLE ${table} AS ${sql}; ALTER TABLE ${table} ADD PRIMARY KEY (id)`);
  await bench.save(
    file(name, list, {
      from: table,
      delivery: `{name: desk, table: predictions.${name.replaceAll("-", "_")}}`,
    }),
  );
  for (const [, candidate] of list.matchAll(/name: (\w+)/g)) await trained(name, { candidate: candidate! });
});

test("a hundred classes, one of them in the holdout only, and a class that a fold lacks", async () => {
  await bench.sql(
    "CREATE TABLE lab.hundred AS SELECT id, site, seen, cat, x1, x2, CASE WHEN id = 900 THEN 'alone' ELSE 'c' || ('x' || substr(md5(id::text), 1, 4))::bit(16)::integer % 100 END AS answer FROM lab.rows; ALTER TABLE lab.hundred ADD PRIMARY KEY (id)",
  );
  await bench.save(
    file(
      "hundred",
      "  - {name: bayes, algorithm: naive_bayes}\n  - {name: tree, algorithm: decision_tree, settings: {least_rows: 3}}",
      {
        from: "lab.hundred",
        train: "true",
        score: "false",
        more: "folds: {count: 2}",
        holdout: "{by: time, from: '2026-05-26'}",
      },
    ).replace("kind: binary", "kind: classes"),
  );
  for (const candidate of ["bayes", "tree"]) {
    const model = await trained("hundred", { candidate });
    expect(model.shape.classes!.length).toBeGreaterThanOrEqual(100);
    expect(model.judgement!.matrix).toHaveLength(model.shape.classes!.length);
  }
  expect(await findPipeline(bench.context.store.db, "hundred")).toBeDefined();
});

test("five folds over four groups: what cannot be judged is said before training, and the version is kept; a search stops", async () => {
  const few = (name: string, search: string): string =>
    file(name, `  - {name: c, algorithm: logistic_regression, settings: {ridge: 0.01}${search}}`, {
      from: "lab.few",
      holdout: "{by: group, share: 0.2, seed: 8}",
      more: "folds: {count: 5, by: group}",
    });
  await bench.sql(`${labTable({ table: "lab.few", rows: 600 })} UPDATE lab.few SET site = id % 7 % 5`);
  await bench.save(few("few-groups", ""));
  const model = await trained("few-groups");
  const { log, steps } = await runRecord(bench.context.store.db, model.runId);
  const said = log.find((entry) => entry.message.includes("of 5 cannot be evaluated"))!;
  const [held] = await bench.sql(
    `SELECT count(DISTINCT site)::int AS groups FROM scratch.${model.data.holdoutTable}`,
  );
  const groups = 5 - Number(held!["groups"]);
  expect(groups).toBeLessThan(5);
  expect(said.message).toContain(`there are ${groups} groups to distribute`);
  expect(said.message).toContain(`Set folds.count to ${groups}`);
  expect(said.at < steps.find((step) => /^train/.test(step.name))!.startedAt).toBe(true);
  expect(model.judgement!.folds).toHaveLength(groups);
  await bench.save(
    few("few-groups-search", ", search: {how: grid, try: [{setting: ridge, values: [0.1, 0.2]}]}"),
  );
  const run = await bench.run("train", "few-groups-search");
  expect(run.problems.map((problem) => problem.code)).toEqual(["empty_fold"]);
});
