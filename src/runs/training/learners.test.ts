import { ALGORITHM_NAMES, factsOf, type Algorithm } from "@/core/learn/algorithms";
import { featureRow } from "@/core/learn/feature-row";
import { columnsRead } from "@/core/learn/model-kinds";
import { predict } from "@/core/learn/compiled";
import type { Task } from "@/core/learn/task";
import { modelById, type ModelRow } from "@/store/models";
import { openBench, TEST_NOW, type Bench } from "../../../testing/warehouse";

/**
 * Every learner on every kind of target it can have, with both engines: rows with weights, gaps in a number and in a category,
 * and in the holdout a category that training never saw. Engines must agree, and SQL must say what the core says.
 */
const TABLE = `CREATE SCHEMA many;
CREATE TABLE many.rows AS
SELECT id, a, b, c, kind, round(0.5 + u2, 3)::double precision AS times, date '2026-01-01' + (id % 100)::int AS seen,
  u < 1 / (1 + exp(-(1.2 * a - 0.6 * coalesce(b, 1) + CASE kind WHEN 'oak' THEN 1 WHEN 'elm' THEN -1 ELSE 0 END))) AS yes,
  2 * a - coalesce(b, 1) + abs(a) + CASE kind WHEN 'oak' THEN 3 ELSE 0 END + u AS amount,
  CASE WHEN a + u > 1 THEN 'high' WHEN coalesce(b, 0) > 1 THEN 'middle' ELSE 'low' END AS class
FROM (SELECT id, round((2 * sin(id * 12.9898))::numeric, 3)::double precision AS a, CASE WHEN id % 11 = 0 THEN NULL ELSE round((2 * cos(id * 78.233) + 0.5)::numeric, 3)::double precision END AS b,
  (id * 7 % 5)::integer AS c, CASE WHEN id % 100 > 90 AND id % 7 = 0 THEN 'never seen' ELSE (ARRAY['oak', 'elm', 'ash', NULL])[1 + (id / 3 % 4)::int] END AS kind,
  (('x' || substr(md5(id::text || 'u'), 1, 8))::bit(32)::bigint / 4294967296.0)::double precision AS u, ('x' || substr(md5(id::text || 'w'), 1, 8))::bit(32)::bigint / 4294967296.0 AS u2
  FROM generate_series(1, 900) id) s;
ALTER TABLE many.rows ADD PRIMARY KEY (id);`;

const TARGETS: Readonly<Record<Task["kind"], string>> = { binary: "yes", number: "amount", classes: "class" };
const SETTINGS: Partial<Record<Algorithm, string>> = {
  linear_regression: "{missing: mean}",
  logistic_regression: "{missing: mean, ridge: 0.001, balance: true}",
  support_vector: "{missing: mean}",
  decision_tree: "{depth: 4}",
  random_forest: "{trees: 4, depth: 4}",
  boosted_trees: "{trees: 6, depth: 3, rows_share: 0.8, columns_share: 0.7, stop_after: 3}",
  nearest_neighbours: "{k: 7, most_rows: 300, weighting: distance}",
  neural_network: "{hidden: [6, 4], epochs: 5}",
};

const fileFor = (kind: Task["kind"], algorithm: Algorithm): string => `ravlen: 1
name: many-${kind}
strands:
  - name: rows
    from: many.rows
    steps:
      - {do: drop, columns: [${Object.entries(TARGETS)
        .filter(([value]) => value !== kind)
        .map(([, name]) => name)
        .join(", ")}]}
roles: {key: [id], target: {column: ${TARGETS[kind]}, kind: ${kind}}, weight: times, time: seen}
rows: {from: rows, train: 'true', score: 'id % 3 = 0'}
holdout: {by: time, from: '2026-04-01'}
candidates:
${["warehouse", "streaming"].map((engine) => `  - {name: ${engine}, algorithm: ${algorithm}, engine: ${factsOf(algorithm).engines.some((oneEngine) => oneEngine === engine) ? engine : "auto"}, settings: ${SETTINGS[algorithm] ?? "{}"}}`).join("\n")}
delivery: [{name: desk, table: predictions.many_${kind}, columns: [kind]}]
`;

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(TABLE);
});
afterAll(() => bench.close());

async function trained(name: string, candidate: string): Promise<ModelRow> {
  const run = await bench.run("train", name, { candidate });
  expect(run.problems).toEqual([]);
  return (await modelById(bench.context.store.db, run.modelId!))!;
}

const putInService = (model: ModelRow) =>
  bench.context.store.pool.query("UPDATE pipelines SET in_service_model_id = $1 WHERE id = $2", [
    model.id,
    model.pipelineId,
  ]);
const holdoutRows = (model: ModelRow) =>
  bench.sql(`SELECT * FROM scratch.${model.data.holdoutTable} ORDER BY id`);

const cases = ALGORITHM_NAMES.flatMap((algorithm) =>
  factsOf(algorithm).targets.map((kind) => [algorithm, kind] as const),
);

test.each(cases)(
  "%s of %s: engines agree, and the statement says what the core says",
  async (algorithm, kind) => {
    await bench.save(fileFor(kind, algorithm));
    const first = await trained(`many-${kind}`, "warehouse");
    const rows = await holdoutRows(first);
    expect(rows.length).toBeGreaterThan(60);
    const read = columnsRead(first.model);
    const outputs = Object.keys(rows[0]!).filter((key) => key.startsWith("ravlen_output_"));
    for (const row of rows) {
      const expected = predict(first.model, featureRow(row, read.numbers, read.categories));
      expect(expected).toHaveLength(outputs.length);
      outputs.forEach((name, index) =>
        expect(Math.abs(Number(row[name]) - expected[index]!)).toBeLessThan(1e-9),
      );
      if (kind === "number") continue;
      const said = outputs.map((name) => Number(row[name]));
      said.forEach((value) => expect(value >= 0 && value <= 1).toBe(true));
      if (kind === "classes")
        expect(Math.abs(said.reduce((sum, value) => sum + value, 0) - 1)).toBeLessThan(1e-12);
    }
    if (factsOf(algorithm).engines.length < 2) return;
    const second = await trained(`many-${kind}`, "streaming");
    expect([first.engine, second.engine]).toEqual(["warehouse", "streaming"]);
    const others = await holdoutRows(second);
    others.forEach((row, place) =>
      outputs.forEach((name) =>
        expect(Math.abs(Number(row[name]) - Number(rows[place]![name]))).toBeLessThan(1e-6),
      ),
    );
  },
);

test.each(["binary", "number", "classes"] as const)(
  "predictions of %s land as they were judged, one column for each class",
  async (kind) => {
    await bench.save(fileFor(kind, "boosted_trees"));
    await bench.train(`many-${kind}`);
    const scored = await bench.run("score", `many-${kind}`, { at: TEST_NOW });
    expect(scored.problems).toEqual([]);
    expect(scored.rows).toBe(300);
    const [row] = await bench.sql(`SELECT * FROM predictions.many_${kind} LIMIT 1`);
    const names = Object.keys(row!);
    expect(names).toEqual(expect.arrayContaining(["id", "prediction", "kind", "model_version"]));
    expect(names.filter((name) => name.startsWith("probability"))).toEqual(
      {
        binary: ["probability"],
        number: [],
        classes: ["probability", "probability=high", "probability=low", "probability=middle"],
      }[kind],
    );
    if (kind === "classes") {
      const [wrong] = await bench.sql(
        `SELECT count(*) AS wrong FROM predictions.many_classes WHERE probability <> greatest("probability=high", "probability=low", "probability=middle") OR abs("probability=high" + "probability=low" + "probability=middle" - 1) > 1e-12`,
      );
      expect(wrong).toEqual({ wrong: "0" });
    }
  },
);

test("a thousand one-hot columns train, with both engines, and score", async () => {
  await bench.sql(
    `CREATE TABLE many.wide AS SELECT id, 'first ' || (id * 7919 % 499) AS one, 'second ' || (id * 104729 % 491) AS two, 'third ' || (id % 97) AS three, (id * 7919 % 499) % 2 = 0 OR id % 5 = 0 AS yes FROM generate_series(1, 1000) id; ALTER TABLE many.wide ADD PRIMARY KEY (id)`,
  );
  const candidates = [
    ["bayes", "naive_bayes", "warehouse", "{}"],
    ["bayes-here", "naive_bayes", "streaming", "{}"],
    ["trees", "boosted_trees", "auto", "{trees: 5, depth: 3, validation_share: 0}"],
  ];
  await bench.save(`ravlen: 1
name: wide
strands: [{name: rows, from: many.wide, steps: [{do: encode, columns: [one, two, three], most_levels: 500, reference: none}]}]
roles: {key: [id], target: {column: yes, kind: binary}}
rows: {from: rows, train: 'true', score: 'id % 10 = 0'}
holdout: {share: 0.2, seed: 3}
candidates:
${candidates.map(([name, algorithm, engine, settings]) => `  - {name: ${name}, algorithm: ${algorithm}, engine: ${engine}, settings: ${settings}}`).join("\n")}
delivery: [{name: desk, table: predictions.wide}]
`);
  const models = new Map<string, ModelRow>();
  for (const [name] of candidates) models.set(name!, await trained("wide", name!));
  expect([...models.values()].map((model) => model.engine)).toEqual(["warehouse", "streaming", "streaming"]);
  const [first, second] = [
    await holdoutRows(models.get("bayes")!),
    await holdoutRows(models.get("bayes-here")!),
  ];
  expect(Object.keys(first[0]!).filter((name) => name.includes("=")).length).toBeGreaterThan(1000);
  first.forEach((row, place) =>
    expect(Math.abs(Number(row["ravlen_output_0"]) - Number(second[place]!["ravlen_output_0"]))).toBeLessThan(
      1e-6,
    ),
  );
  await putInService(models.get("bayes")!);
  const scored = await bench.run("score", "wide", { at: TEST_NOW });
  expect([scored.problems, scored.rows]).toEqual([[], 100]);
});

test("a forest too large for one statement scores where the worker is, page by page, and says what the core says", async () => {
  await bench.save(
    fileFor("number", "random_forest")
      .replaceAll("{trees: 4, depth: 4}", "{trees: 170, depth: 20, least_rows: 1}")
      .replace("score: 'id % 3 = 0'", "score: 'true'"),
  );
  const model = await trained("many-number", "streaming");
  if (model.model.algorithm !== "random_forest") throw new Error("not a forest");
  expect(model.model.trees.reduce((sum, tree) => sum + tree.nodes.length, 0)).toBeGreaterThan(60_000);
  const read = columnsRead(model.model);
  for (const row of await holdoutRows(model))
    expect(
      Math.abs(
        Number(row["ravlen_output_0"]) -
          predict(model.model, featureRow(row, read.numbers, read.categories))[0]!,
      ),
    ).toBeLessThan(1e-9);
  await putInService(model);
  await bench.sql("DROP TABLE IF EXISTS predictions.many_number");
  const scored = await bench.run("score", "many-number", { at: TEST_NOW });
  expect([scored.problems, scored.rows]).toEqual([[], 900]);
  const [apart] = await bench.sql(
    `SELECT count(*)::int AS rows, max(abs(p.prediction - h.ravlen_output_0)) AS most FROM predictions.many_number p JOIN scratch.${model.data.holdoutTable} h USING (id)`,
  );
  expect(apart!["rows"]).toBeGreaterThan(60);
  expect(Number(apart!["most"])).toBeLessThan(1e-9);
  expect(
    await bench.sql(
      "SELECT tablename FROM pg_tables WHERE schemaname = 'scratch' AND tablename !~ '^(holdout|trained)'",
    ),
  ).toEqual([]);
});
