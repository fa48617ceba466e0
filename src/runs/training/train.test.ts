import { columnsRead } from "@/core/learn/model-kinds";
import { predict } from "@/core/learn/compiled";
import { drawOf } from "@/core/plan/split";
import { describeProblem } from "@/core/problem";
import { modelById } from "@/store/models";
import { addRun, askCancel, retryRun, runById, runRecord, runStatementsOf, type RunRow } from "@/store/runs";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { labFile, labTable } from "../../../testing/lab";
import { modelAs, openBench, TEST_NOW, type Bench } from "../../../testing/warehouse";
import { executeRun } from "../execute";
import { UNWATCHED } from "../pace";
import { scoreInPieces } from "./scored-in-pieces";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  await bench.save(labFile());
});
afterAll(() => bench.close());

const scratchTables = async (): Promise<readonly string[]> =>
  (
    await bench.sql(
      "SELECT relname FROM pg_class WHERE relnamespace = 'scratch'::regnamespace AND relkind = 'r' AND relname !~ '^(holdout|trained)'",
    )
  ).map((row) => String(row["relname"]));

test("training twice gives the same split, the same coefficients and the same predictions", async () => {
  const [first, second] = [await bench.train("lab"), await bench.train("lab")];
  expect(second.number).toBe(first.number + 1);
  expect(second.planHash).toBe(first.planHash);
  const again = modelAs(second, "logistic_regression").coefficients;
  modelAs(first, "logistic_regression").coefficients.forEach((coefficient, index) => {
    expect(Math.abs(coefficient.estimate - again[index]!.estimate)).toBeLessThanOrEqual(1e-10);
    expect(Math.abs(coefficient.error! - again[index]!.error!)).toBeLessThanOrEqual(1e-10);
  });
  const [difference] = await bench.sql(
    `SELECT count(*) AS rows, count(*) FILTER (WHERE a.ravlen_output_0 IS DISTINCT FROM b.ravlen_output_0) AS different FROM scratch.${first.data.holdoutTable} a FULL JOIN scratch.${second.data.holdoutTable} b USING (id)`,
  );
  expect(difference).toMatchObject({ different: "0" });
  expect(Number(difference!["rows"])).toBe(first.data.holdoutRows);
});

test("which rows are held out is the same in the warehouse and in the core, and does not depend on other rows", async () => {
  const model = await bench.train("lab");
  const held = new Set(
    (await bench.sql(`SELECT id FROM scratch.${model.data.holdoutTable}`)).map((row) => String(row["id"])),
  );
  const trainable = await bench.sql("SELECT id FROM lab.rows WHERE answer IS NOT NULL");
  for (const { id } of trainable) expect(held.has(String(id))).toBe(drawOf(5, [String(id)]) < 0.25);
  await bench.sql("CREATE TABLE lab.fewer AS SELECT * FROM lab.rows WHERE id % 3 <> 1");
  await bench.save(labFile({ name: "fewer", from: "lab.fewer" }));
  const fewer = await bench.train("fewer");
  for (const row of await bench.sql(`SELECT id FROM scratch.${fewer.data.holdoutTable}`))
    expect(held.has(String(row["id"]))).toBe(true);
});

test("a holdout by group takes whole groups, one by time everything from its moment on", async () => {
  await bench.save(labFile({ name: "by-group", holdout: "{by: group, share: 0.3, seed: 2}" }));
  const grouped = await bench.train("by-group");
  const [mixed] = await bench.sql(
    `SELECT count(*) AS sites FROM (SELECT r.site FROM lab.rows r LEFT JOIN scratch.${grouped.data.holdoutTable} h USING (id) WHERE r.answer IS NOT NULL GROUP BY r.site HAVING count(h.id) NOT IN (0, count(*))) s`,
  );
  expect(mixed).toEqual({ sites: "0" });
  await bench.save(labFile({ name: "by-time", holdout: "{by: time, from: '2026-05-20'}" }));
  const timed = await bench.train("by-time");
  const [wrong] = await bench.sql(
    `SELECT count(*) FILTER (WHERE (h.id IS NOT NULL) <> (r.seen >= '2026-05-20')) AS wrong, count(h.id) AS held FROM lab.rows r LEFT JOIN scratch.${timed.data.holdoutTable} h USING (id) WHERE r.answer IS NOT NULL`,
  );
  expect(wrong!["wrong"]).toBe("0");
  expect(Number(wrong!["held"])).toBeGreaterThan(100);
});

test("no feature leaves the warehouse but to explain, in the holdout and in folds, and every value is counted", async () => {
  await bench.save(
    labFile({
      name: "stays",
      more: "folds: {count: 4}",
      roles: "weight: w",
      steps: "- {do: derive, columns: {w: 1 + id % 3}}",
    }),
  );
  const run = await bench.run("train", "stays");
  const { steps, log } = await runRecord(bench.context.store.db, run.id);
  const statements = await runStatementsOf(bench.context.store.db, run.id);
  const training = steps.find((step) => step.name === "train in the warehouse")!;
  const asked = statements.filter(
    (statement) => statement.stepId === training.id && /^SELECT/.test(statement.sql),
  );
  expect(asked.length).toBeGreaterThan(5);
  for (const item of asked) expect(item.rows).toBeLessThanOrEqual(25);
  // What comes row by row: predictions, answers and weights, and some rows to explain the model with.
  const many = statements.filter(
    (statement) => /^(SELECT|WITH)/.test(statement.sql) && (statement.rows ?? 0) > 60,
  );
  const [explaining, ...judging] = [...many].sort((left) => (/explain/.test(left.purpose) ? -1 : 1));
  expect(explaining!.purpose).toBe("some holdout rows to explain the model with");
  expect(judging.map(({ purpose }) => purpose)).toEqual(Array(6).fill("read predictions and targets"));
  for (const item of judging)
    expect(/^SELECT ([^]*?)\nFROM/.exec(item.sql)![1]!.match(/"?\b(x1|x2|cat|site)\b"?/)).toBeNull();
  const model = (await modelById(bench.context.store.db, run.modelId!))!;
  const { rows, folds, training: trained } = model.judgement!;
  const judged = rows + trained!.rows + folds.reduce((sum, fold) => sum + fold.rows, 0);
  const { leaving } = model.data;
  expect(leaving).toMatchObject({ judged, streamed: 0, explained: explaining!.rows });
  // Each of the folds asks for about as many sums as the fit on all rows; what else comes out are counts and names of categories.
  const { numbersOut } = model.model.fit;
  const least = judged * 3 + explaining!.rows! * 4 + numbersOut;
  expect(leaving!.values).toBeGreaterThan(least);
  expect(leaving!.values).toBeLessThan(least + 5 * numbersOut + 400);
  expect(log.map((entry) => entry.message).join("\n")).toMatch(
    /no row left the warehouse; [\d,]+ aggregated numbers were read.*Evaluation: prediction, answer and weight of [\d,]+ rows.*features of \d+ rows were read\. In total: [\d,]+ values/,
  );
  expect(await scratchTables()).toEqual([]);
});

test("a forest too large for a statement scores in several, to the last bit as in one, and no row leaves", async () => {
  await bench.save(
    labFile({ name: "pieces" }).replace(
      "algorithm: logistic_regression, settings: {}",
      "algorithm: random_forest, engine: warehouse, settings: {trees: 7, depth: 5}",
    ),
  );
  const { model, data } = await bench.train("pieces");
  const columns = ["id", "x1", "x2", "cat"];
  const [inputs, outputs] = ["pieces_in", "pieces_out"].map((table) => ({ schema: "scratch", table }));
  const session = await bench.context.warehouse.session();
  try {
    await session.run(
      `CREATE TABLE scratch.pieces_in AS SELECT ${columns.join(", ")}, row_number() OVER () AS ravlen_place FROM scratch.${data.holdoutTable}`,
      "rows",
    );
    const before = session.leaving.values;
    const work = { session, most: 40 };
    let pieces = 0;
    const pace = { ...UNWATCHED, breathe: async (): Promise<void> => void (pieces += 1) };
    await scoreInPieces({ ...work, pace }, { inputs: inputs!, outputs: outputs! }, model, columns);
    expect(pieces).toBeGreaterThan(5);
    expect(session.leaving.values).toBe(before);
    const [same] = await session.run(
      `SELECT count(*)::int AS rows, bool_and(o.ravlen_output_0 = h.ravlen_output_0) AS equal FROM scratch.pieces_out o JOIN scratch.${data.holdoutTable} h USING (id)`,
      "compare",
    );
    expect(same).toEqual({ rows: data.holdoutRows, equal: true });
    await session.run("DROP TABLE scratch.pieces_in, scratch.pieces_out", "clean");
  } finally {
    session.release();
  }
});

test("values are learned from training rows only, not on held-out ones", async () => {
  const model = await bench.train("lab");
  const [median] = await bench.sql(
    `SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY x2) AS median FROM lab.rows WHERE answer IS NOT NULL AND id NOT IN (SELECT id FROM scratch.${model.data.holdoutTable})`,
  );
  expect(model.learned).toEqual({ "0": { values: { x2: Number(median!["median"]) } } });
});

test("the kept holdout carries the probability that the core computes from its own columns", async () => {
  const model = await bench.train("lab");
  for (const row of await bench.sql(`SELECT * FROM scratch.${model.data.holdoutTable}`)) {
    expect(
      Math.abs(
        Number(row["ravlen_output_0"]) -
          predict(model.model, {
            x1: Number(row["x1"]),
            x2: Number(row["x2"]),
            cat: row["cat"] as string | null,
          })[0]!,
      ),
    ).toBeLessThan(1e-12);
  }
});

/** What a run over a changed table or file ends with. */
async function failing(text: string): Promise<RunRow> {
  const name = /name: (\S+)/.exec(text)![1]!;
  await bench.save(text);
  const run = await bench.run("train", name);
  expect(run.state).toBe("failed");
  expect(await scratchTables()).toEqual([]);
  expect(
    (await bench.context.store.pool.query("SELECT 1 FROM model_versions WHERE run_id = $1", [run.id]))
      .rowCount,
  ).toBe(0);
  return run;
}

test.each<
  readonly [
    what: string,
    table: string,
    answer: string | undefined,
    change: string,
    file: Parameters<typeof labFile>[0],
    code: string,
    words: RegExp,
  ]
>([
  ["one class only", "lab.t1", "true", "", {}, "one_class", /same target value/],
  [
    "a key that repeats",
    "lab.t2",
    undefined,
    "ALTER TABLE lab.t2 DROP CONSTRAINT t2_pkey; INSERT INTO lab.t2 SELECT * FROM lab.t2 WHERE id = 7",
    {},
    "key_repeats",
    /7 \(2 rows\)/,
  ],
  [
    "a key that is missing",
    "lab.t3",
    undefined,
    "ALTER TABLE lab.t3 DROP CONSTRAINT t3_pkey; ALTER TABLE lab.t3 ALTER id DROP NOT NULL; UPDATE lab.t3 SET id = NULL WHERE id = 7",
    {},
    "key_repeats",
    /missing/,
  ],
  [
    "an answer that is missing",
    "lab.t4",
    undefined,
    "UPDATE lab.t4 SET answer = NULL WHERE id IN (1, 2, 3, 4, 6, 7)",
    { train: "seen < '2026-06-01'" },
    "target_missing",
    /have no target/,
  ],
  [
    "a gap that nobody filled",
    "lab.t5",
    undefined,
    "UPDATE lab.t5 SET x1 = NULL WHERE id % 10 = 1",
    {},
    "feature_missing",
    /"x1" is missing in \d+ of/,
  ],
  [
    "a number that is infinite",
    "lab.t6",
    undefined,
    "UPDATE lab.t6 SET x1 = 'Infinity' WHERE id = 11",
    {},
    "not_finite",
    /"x1"/,
  ],
  ["a column that gives the answer away", "lab.t7", "x1 > 0.5", "", {}, "separated", /"x1"/],
  [
    "a category with one answer only",
    "lab.t8",
    "CASE WHEN cat = 'fir' THEN true ELSE u < 0.4 END",
    "",
    {},
    "separated",
    /cat = fir/,
  ],
  [
    "columns that depend on each other",
    "lab.t9",
    undefined,
    "",
    { steps: '- {do: derive, columns: {x3: "2 * x1 - x2 + 7"}}' },
    "collinear",
    /"x3" can be computed exactly from .*"x1", "x2"/,
  ],
  ["an empty table", "lab.t10", undefined, "DELETE FROM lab.t10", {}, "no_rows", /no training rows/],
  [
    "too many categories",
    "lab.t11",
    undefined,
    "UPDATE lab.t11 SET cat = id::text",
    { settings: "{most_levels: 50}" },
    "too_many_levels",
    /"cat"/,
  ],
  [
    "a check that stops",
    "lab.t12",
    undefined,
    "",
    { more: "checks: [{name: small, expect: x1 < 2}]" },
    "check_failed",
    /rows fail the check "small"/,
  ],
])("%s is named, and nothing is kept", async (_what, table, answer, change, file, code, words) => {
  await bench.sql(labTable({ table, rows: 600, ...(answer === undefined ? {} : { answer }) }));
  if (change !== "") await bench.sql(change);
  const run = await failing(labFile({ ...file, name: table.replace("lab.", "bad-"), from: table }));
  expect(run.problems[0]).toMatchObject({ code, severity: "error" });
  expect(describeProblem(run.problems[0]!)).toMatch(words);
});

test("a small ridge settles what is separated or collinear", async () => {
  await bench.sql(labTable({ table: "lab.ridge", rows: 600, answer: "x1 > 0.5" }));
  await bench.save(
    labFile({
      name: "ridge",
      from: "lab.ridge",
      settings: "{ridge: 0.001}",
      steps: '- {do: derive, columns: {x3: "2 * x1 - x2 + 7"}}',
    }),
  );
  expect((await bench.train("ridge")).metrics.auc).toBeGreaterThan(0.99);
});

test("a column that is entirely missing and a constant one are excluded with a warning", async () => {
  await bench.save(
    labFile({ name: "empty-column", steps: '- {do: derive, columns: {nothing: "nullif(x1, x1)", same: 3}}' }),
  );
  const model = await bench.train("empty-column");
  expect(modelAs(model, "logistic_regression").numbers.map((number) => number.column)).toEqual(["x1", "x2"]);
  const { log } = await runRecord(bench.context.store.db, model.runId);
  const warnings = log
    .filter((entry) => entry.level === "warning")
    .map((entry) => entry.message)
    .join("\n");
  expect(warnings).toContain('"nothing" has no value in the training rows');
  expect(warnings).toContain('"same" has a single value');
});

test.each(["logistic_regression", "naive_bayes", "neural_network", "boosted_trees"])(
  "%s: a category of one value is named among those excluded, 1,500 whole numbers around 9e15 are none, and a conversion that loses most values warns",
  async (algorithm) => {
    const name = `left-${algorithm.replaceAll("_", "-")}`;
    await bench.save(
      labFile({
        name,
        steps: `- {do: derive, columns: {big: "cast(9000000000000000 as bigint) + id", one: "'x'", code: "concat('n', id % 3)"}}
- {do: convert, columns: {code: integer}, failing: missing}`,
        settings: "{}",
      }).replace("algorithm: logistic_regression", `algorithm: ${algorithm}`),
    );
    const model = await bench.train(name);
    const { log, steps } = await runRecord(bench.context.store.db, model.runId);
    const warnings = log.filter((entry) => entry.level === "warning").map((entry) => entry.message);
    expect(warnings).toContainEqual(
      expect.stringMatching(/Most values of "code" do not convert to integer.*2000 of 2000, such as “n0”/),
    );
    expect(warnings).toContainEqual(expect.stringMatching(/^"code" has no value .* is excluded/));
    expect(warnings).toContainEqual(expect.stringMatching(/^"one" has a single value .* is excluded/));
    expect(warnings.join()).not.toContain('"big"');
    if (algorithm !== "boosted_trees") expect([...columnsRead(model.model).numbers]).toContain("big");
    // The conversion is said before anything is trained.
    const said = log.find((entry) => entry.message.includes("Most values"))!;
    expect(said.at < steps.find((step) => /^train/.test(step.name))!.startedAt).toBe(true);
  },
);

test("many columns and categories train in the warehouse", async () => {
  const derived = Array.from({ length: 70 }, (_, index) => `f${index}: "sin(id * ${index + 2}.17)"`).join(
    ", ",
  );
  await bench.save(
    labFile({
      name: "wide",
      steps: `- {do: derive, columns: {${derived}, many: "concat('c', id % 61)"}}`,
      settings: "{ridge: 0.01}",
    }),
  );
  const model = await bench.train("wide");
  expect(modelAs(model, "logistic_regression").coefficients).toHaveLength(1 + 72 + 4 + 60);
});

test("cancelling a run ends its statement, drops its tables and keeps nothing", async () => {
  const { db } = bench.context.store;
  const pipeline = (await findPipeline(db, "lab"))!;
  const run = (await addRun(db, {
    kind: "train",
    pipelineId: pipeline.id,
    pipelineVersionId: (await newestVersion(db, pipeline.id))!.id,
    cause: "hand",
    runTime: TEST_NOW,
  }))!;
  await bench.admin(async (client) => {
    await client.query("BEGIN; LOCK TABLE lab.rows IN ACCESS EXCLUSIVE MODE");
    const work = executeRun({ ...bench.context }, run.id, "test");
    await new Promise((resolve) => setTimeout(resolve, 500));
    await askCancel(db, run.id);
    await work;
    await client.query("ROLLBACK");
  });
  expect(await runById(db, run.id)).toMatchObject({ state: "cancelled", problems: [] });
  expect(await scratchTables()).toEqual([]);
});

test("a training that failed after it had fitted goes on from there, unless its sources have changed", async () => {
  const { db } = bench.context.store;
  await bench.save(labFile({ name: "again", more: "folds: {count: 3}" }));
  const train = async (): Promise<string> => {
    const pipeline = (await findPipeline(db, "again"))!;
    const version = (await newestVersion(db, pipeline.id))!;
    return (await addRun(db, {
      kind: "train",
      pipelineId: pipeline.id,
      pipelineVersionId: version.id,
      cause: "hand",
      runTime: TEST_NOW,
    }))!.id;
  };
  // A view of somebody else's stands where the holdout would go.
  const fail = async (): Promise<string> => {
    const run = await train();
    const holdout = `scratch.holdout_${run.replaceAll("-", "")}`;
    await bench.sql(`CREATE VIEW ${holdout} AS SELECT 1 AS one`);
    await executeRun(bench.context, run, "test");
    expect(await runById(db, run)).toMatchObject({ state: "failed" });
    await bench.sql(`DROP VIEW ${holdout}`);
    return run;
  };
  const goOn = async (run: string): Promise<readonly (string | null)[]> => {
    expect(await retryRun(db, run)).toBeDefined();
    await executeRun(bench.context, run, "test");
    expect(await runById(db, run)).toMatchObject({ state: "done", attempt: 2 });
    return (await runRecord(db, run)).steps
      .filter((step) => step.attempt === 2 && step.detail?.endsWith("reused from an earlier attempt"))
      .map((step) => step.name);
  };
  const first = await fail();
  expect(await goOn(first)).toEqual([
    "prepare rows and split off the holdout",
    "build the training frame",
    "train in the warehouse",
  ]);
  expect(await scratchTables()).toEqual([]);
  const whole = await train();
  await executeRun(bench.context, whole, "test");
  const [went, fresh] = await Promise.all(
    [first, whole].map(async (run) => (await modelById(db, (await runById(db, run))!.modelId!))!),
  );
  expect(went!.metrics).toEqual(fresh!.metrics);
  expect(went!.judgement!.folds).toEqual(fresh!.judgement!.folds);
  const second = await fail();
  // The tables of a server that crashed are empty, whatever is said of them.
  for (const table of await scratchTables()) await bench.sql(`TRUNCATE scratch.${table}`);
  expect(await goOn(second)).toEqual(["train in the warehouse"]);
  const third = await fail();
  await bench.sql("UPDATE lab.rows SET x1 = x1 + 0.5 WHERE id % 7 = 0");
  expect(await goOn(third)).toEqual([]);
});
