import { openBench, type Bench } from "../../../testing/warehouse";
import { listModels, modelById } from "@/store/models";
import { runRecord } from "@/store/runs";
import { openJudged } from "../judging/judged-table";
import { judgedRows } from "../judging/judged-rows";
import { explainAll } from "../judging/importance";
import { segmentsOf } from "../judging/segments";

/** Figures on holdout rows that training does not know everything about: new classes, weights, few groups. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(
    `CREATE SCHEMA lab; CREATE TABLE lab.kinds AS SELECT id, date '2026-01-01' + id / 10 AS day, id % 6 AS site, sin(id * 7.7) AS x, id % 13 AS level, (1 + id % 4)::float8 AS heft,
       CASE WHEN id >= 800 AND id % 2 = 0 THEN 'new' WHEN sin(id * 7.7) > 0.2 THEN 'high' WHEN sin(id * 7.7) < -0.9 THEN 'rare' ELSE 'low' END AS kind, 10 * sin(id * 7.7) + (id % 5) AS amount, sin(id * 7.7) + cos(id * 3.3) > 0 AS flag
     FROM generate_series(1, 1000) id; ALTER TABLE lab.kinds ADD PRIMARY KEY (id)`,
  );
});
afterAll(() => bench.close());

const KINDS: Readonly<Partial<Record<string, string>>> = { kind: "classes", flag: "binary" };

const file = (name: string, target: string, holdout: string, roles = ""): string => `ravlen: 1
name: ${name}
strands: [{name: rows, from: lab.kinds, steps: [{do: keep, columns: [id, day, site, x, level, heft, ${target}]}]}]
roles: {key: [id], target: {column: ${target}, kind: ${KINDS[target] ?? "number"}}, time: day, group: site${roles}}
rows: {from: rows, train: 'true', score: 'true'}
holdout: ${holdout}
candidates: [{name: tree, algorithm: decision_tree, settings: {depth: 4}}]`;

async function trained(text: string, name: string) {
  await bench.save(text);
  const run = await bench.run("train", name);
  expect(run.problems).toEqual([]);
  const [summary] = await listModels(bench.context.store.db, run.pipelineId);
  return {
    model: (await modelById(bench.context.store.db, summary!.id))!,
    warnings: (await runRecord(bench.context.store.db, run.id)).log
      .filter((entry) => entry.level === "warning")
      .map((entry) => entry.message),
  };
}

test("rows of a class unseen in training are judged, count as wrong, and are told of", async () => {
  const { model, warnings } = await trained(file("kinds", "kind", "{by: time, from: '2026-03-22'}"), "kinds");
  const [truth] = await bench.sql(
    "SELECT count(*)::int AS rows, count(*) FILTER (WHERE kind = 'new')::int AS new FROM lab.kinds WHERE day >= '2026-03-22'",
  );
  expect(model.judgement).toMatchObject({ rows: truth!["rows"], unknownAnswers: truth!["new"] });
  const known = Number(truth!["rows"]) - Number(truth!["new"]);
  expect(model.metrics.accuracy!).toBeLessThanOrEqual(known / Number(truth!["rows"]));
  expect(model.metrics.accuracy!).toBeGreaterThan(0.4);
  expect(warnings.join()).toContain(
    `${String(truth!["new"])} holdout rows have a class that no training row has`,
  );
  const judged = await openJudged(bench.context, model.id);
  const page = await judgedRows(bench.context.warehouse, judged, "wrong", undefined, 0, 5);
  expect(page.rows.map((row) => row.answer)).toEqual(Array(5).fill("a class unseen in training"));
});

test("figures are weighted where a weight is given, and the unweighted ones are kept beside", async () => {
  const plain = await trained(file("plain", "amount", "{share: 0.3, seed: 2}"), "plain");
  const { model } = await trained(
    file("heavy", "amount", "{share: 0.3, seed: 2}", ", weight: heft"),
    "heavy",
  );
  const [byHand] = await bench.sql(
    `SELECT sqrt(sum(heft * (ravlen_target - ravlen_output_0) ^ 2) / sum(heft)) AS weighted, sqrt(avg((ravlen_target - ravlen_output_0) ^ 2)) AS plain FROM scratch.${model.data.holdoutTable}`,
  );
  expect(model.metrics.rmse).toBeCloseTo(Number(byHand!["weighted"]), 9);
  expect(model.judgement!.unweighted!.rmse).toBeCloseTo(Number(byHand!["plain"]), 9);
  expect(plain.model.judgement!.unweighted).toBeUndefined();
});

test("with few groups held out there is no interval, and the reason is kept", async () => {
  const { model } = await trained(file("grouped", "flag", "{by: group, share: 0.5, seed: 4}"), "grouped");
  expect(model.judgement!.intervals).toEqual({});
  expect(model.judgement!.noIntervals).toMatch(
    /^Rows belong together in \d groups?; an interval needs at least 10\.$/,
  );
});

test("equal values of a number stay in one segment, the newest months are shown, and a segment with more positives is not called worse", async () => {
  const { model } = await trained(file("segments", "flag", "{share: 0.5, seed: 1}"), "segments");
  const judged = await openJudged(bench.context, model.id);
  const { segments } = await segmentsOf(bench.context.warehouse, judged, "level");
  expect(segments.reduce((sum, segment) => sum + segment.rows, 0)).toBe(model.data.holdoutRows);
  const parts = await bench.sql(
    `SELECT level, count(*)::int AS n FROM scratch.${model.data.holdoutTable} GROUP BY 1`,
  );
  for (const { label, rows } of segments) {
    const [low, high = low] = label.split(" to ").map(Number);
    const inside = parts.filter((part) => Number(part["level"]) >= low! && Number(part["level"]) <= high!);
    expect(rows).toBe(inside.reduce((sum, item) => sum + Number(item["n"]), 0));
  }
  const months = await segmentsOf(bench.context.warehouse, judged, "day", 2);
  expect(months.all).toBe(4);
  expect(months.segments.map((segment) => segment.label)).toEqual(["2026-03", "2026-04"]);
  expect(segments.flatMap((segment) => segment.worse)).toEqual([]);
});

test("five folds over two groups judge what they can; the version is kept, and what could not be judged is said", async () => {
  const text = file("folded", "flag", "{share: 0.2, seed: 1}").replace(
    "candidates:",
    "folds: {count: 5, by: group, seed: 1}\ncandidates:",
  );
  const { model, warnings } = await trained(text.replace("train: 'true'", "train: 'site < 2'"), "folded");
  expect(model.judgement!.folds.length).toBeLessThan(5);
  expect(model.judgement!.folds.length).toBeGreaterThan(0);
  expect(warnings.join()).toMatch(/In fold \d of 5: .* The version is saved without it\./);
});

test("holdout rows that cannot be scored are excluded and told of, and the version is kept", async () => {
  const text = file("gaps", "flag", "{by: time, from: '2026-03-22'}")
    .replace(
      "steps: [",
      "steps: [{do: derive, columns: {x: 'case when id < 800 or id % 3 > 0 then x end'}}, ",
    )
    .replace(
      "algorithm: decision_tree, settings: {depth: 4}",
      "algorithm: logistic_regression, settings: {ridge: 0.01}",
    );
  const { model, warnings } = await trained(text, "gaps");
  const [truth] = await bench.sql(
    "SELECT count(*) FILTER (WHERE id % 3 > 0)::int AS judged, count(*) FILTER (WHERE id % 3 = 0)::int AS gaps FROM lab.kinds WHERE day >= '2026-03-22'",
  );
  expect(model.judgement).toMatchObject({ rows: truth!["judged"], unscored: truth!["gaps"] });
  expect(warnings.join()).toContain("holdout rows cannot be scored");
});

test("of very many features those that move predictions most are measured, and all of them when asked for", async () => {
  const further = Array.from({ length: 70 }, (_, index) => `w${index}: "sin(id * ${index + 2}.3)"`).join(
    ", ",
  );
  const text = file("wide", "amount", "{share: 0.3, seed: 2}")
    .replace("steps: [", `steps: [{do: derive, columns: {${further}}}, `)
    .replace(
      "heft, amount",
      `heft, amount, ${Array.from({ length: 70 }, (_, index) => `w${index}`).join(", ")}`,
    )
    .replace(
      "algorithm: decision_tree, settings: {depth: 4}",
      "algorithm: linear_regression, settings: {ridge: 0.1}",
    );
  const { model } = await trained(text, "wide");
  const { importance, importanceOf, dependence } = model.judgement!;
  expect([importance.length, importanceOf.columns, dependence.length]).toEqual([60, 73, 12]);
  expect(await explainAll(bench.context, model.id, 60)).toEqual({ measured: 73, all: 73 });
  const kept = (await modelById(bench.context.store.db, model.id))!.judgement!;
  expect([kept.importance.length, kept.dependence.length]).toEqual([73, 73]);
  expect(kept.importance[0]).toEqual(importance[0]);
  expect(kept.figures).toEqual(model.judgement!.figures);
});
