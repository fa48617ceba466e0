import { holdoutTable } from "../scratch";
import { labFile, labTable } from "../../../testing/lab";
import { openBench, type Bench } from "../../../testing/warehouse";
import { planOfVersion } from "../version-plan";
import { unwrap } from "@/core/problem";
import { previewDivision } from "@/server/division";
import type { ModelRow } from "@/store/models";
import { runById, runRecord } from "@/store/runs";
import { openBlindPart } from "../judging/blind";
import { judgedRows } from "../judging/judged-rows";
import { openJudged } from "../judging/judged-table";
import { segmentsOf } from "../judging/segments";

/** Which rows train and which judge, held against what the warehouse itself says of the rows. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  await bench.sql(labTable({ table: "lab.others", rows: 900 }));
  await bench.sql("UPDATE lab.others SET x1 = x1 + 0.25, seen = seen + 400 WHERE id % 5 <> 0");
  await bench.sql("ALTER TABLE lab.others ALTER x1 TYPE numeric, ALTER site TYPE bigint");
});
afterAll(() => bench.close());

interface Sides {
  readonly training: number;
  readonly holdout: readonly string[];
  readonly blind: readonly string[];
  readonly model: ModelRow;
}

const idsOf = async (table: string): Promise<readonly string[]> =>
  (await bench.sql(`SELECT id FROM scratch.${table} ORDER BY id`)).map((row) => String(row["id"]));
const idsWhere = async (condition: string, table = "lab.rows"): Promise<readonly string[]> =>
  (await bench.sql(`SELECT id FROM ${table} WHERE ${condition} ORDER BY id`)).map((row) => String(row["id"]));

async function trained(
  name: string,
  holdout: string,
  more: Parameters<typeof labFile>[0] = {},
): Promise<Sides> {
  await bench.save(labFile({ name, holdout, ...more }));
  const model = await bench.train(name);
  return {
    model,
    training: model.data.trainingRows,
    holdout: model.data.holdoutTable === undefined ? [] : await idsOf(model.data.holdoutTable),
    blind: model.data.blindTable === undefined ? [] : await idsOf(model.data.blindTable),
  };
}

test("named groups judge, others stay closed, and groups that are named nowhere train", async () => {
  const sides = await trained("named", "{by: named, groups: [3, 5], blind: {groups: [11]}}");
  expect(sides.holdout).toEqual(await idsWhere("answer IS NOT NULL AND site IN (3, 5)"));
  expect(sides.blind).toEqual(await idsWhere("answer IS NOT NULL AND site = 11"));
  expect(sides.training).toBe((await idsWhere("answer IS NOT NULL AND site NOT IN (3, 5, 11)")).length);
  expect(sides.model.judgement!.byGroup).toBe(true);
});

test("rows that meet a condition judge; rows for which it is unknown train", async () => {
  const sides = await trained("condition", "{by: condition, where: cat = 'oak', blind: {where: x1 > 2}}");
  expect(sides.blind).toEqual(await idsWhere("answer IS NOT NULL AND x1 > 2"));
  expect(sides.holdout).toEqual(await idsWhere("answer IS NOT NULL AND x1 <= 2 AND cat = 'oak'"));
  expect(sides.training).toBe(
    (await idsWhere("answer IS NOT NULL AND x1 <= 2 AND cat IS DISTINCT FROM 'oak'")).length,
  );
});

test("a blind holdout of its own kind lies beside any holdout, and closes before the holdout does", async () => {
  const share = await trained("time-and-share", "{by: time, from: '2026-05-20', blind: {share: 0.2}}");
  expect(share.holdout.filter((id) => share.blind.includes(id))).toEqual([]);
  const late = await idsWhere("answer IS NOT NULL AND seen >= '2026-05-20'");
  expect([...share.holdout, ...share.blind.filter((id) => late.includes(id))].length).toBe(late.length);
  const all = (await idsWhere("answer IS NOT NULL")).length;
  expect(share.blind.length / all).toBeGreaterThan(0.15);
  expect(share.blind.length / all).toBeLessThan(0.25);
});

test("another table judges, through the same steps, with learned from training rows", async () => {
  const sides = await trained("table", "{by: table, table: lab.others}", {
    steps: "- {do: target_mean, columns: [cat], smoothing: 5, keep: true}\n",
  });
  expect(sides.training).toBe((await idsWhere("answer IS NOT NULL")).length);
  expect(sides.holdout).toEqual(await idsWhere("true", "lab.others"));
  const [filled] = await bench.sql(
    `SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY x2) AS median FROM lab.rows WHERE answer IS NOT NULL`,
  );
  const [held] = await bench.sql(
    `SELECT min(h.x2) AS least, max(h.x2) AS most FROM scratch.${sides.model.data.holdoutTable} h JOIN lab.others o USING (id) WHERE o.x2 IS NULL`,
  );
  expect([held!["least"], held!["most"]]).toEqual([filled!["median"], filled!["median"]]);
  const [means] = await bench.sql(
    `SELECT count(*)::int AS wrong FROM scratch.${sides.model.data.holdoutTable} h WHERE h.cat_mean IS NOT NULL AND h.cat = 'oak' AND abs(h.cat_mean - (SELECT (sum(answer::int) + 5 * (SELECT avg(answer::int) FROM lab.rows WHERE answer IS NOT NULL)) / (count(*) + 5) FROM lab.rows WHERE answer IS NOT NULL AND cat = 'oak')) > 1e-9`,
  );
  expect(means!["wrong"]).toBe(0);
  // The table is fingerprinted with what is read, and not asked for when the version scores.
  expect(Object.keys(sides.model.data.fingerprints)).toContain("lab.others");
  await bench.sql("ALTER TABLE lab.others RENAME TO gone");
  expect((await planOfVersion(bench.context, sides.model)).division.tables).toEqual([]);
  expect((await bench.run("score", "table")).state).toBe("done");
  await bench.sql("ALTER TABLE lab.gone RENAME TO others");
});

test("folds stay inside the training rows, whichever table judges", async () => {
  const { model } = await trained("table-folds", "{by: table, table: lab.others}", {
    more: "folds: {count: 3, by: stratified}",
  });
  const { folds } = model.judgement!;
  expect(folds.reduce((sum, fold) => sum + fold.rows, 0)).toBe(model.data.trainingRows);
  expect(holdoutTable(bench.context.warehouse, model.runId).table).toBe(model.data.holdoutTable);
});

test("where every row trains, folds judge: each row by a model that never saw it", async () => {
  const sides = await trained("inside", "{by: none}", {
    more: "folds: {count: 4, by: group}",
    settings: "{ridge: 0.01}",
  });
  const { judgement, data, metrics } = sides.model;
  const all = await idsWhere("answer IS NOT NULL");
  expect(sides.training).toBe(all.length);
  expect(sides.holdout).toEqual(all);
  expect(judgement).toMatchObject({ insideFolds: true, rows: all.length });
  // Pooled over folds of about the same size, the figure is near the mean of theirs, and no better than on the rows trained on.
  const mean = judgement!.folds.reduce((sum, fold) => sum + fold.figures.auc!, 0) / judgement!.folds.length;
  expect(Math.abs(metrics.auc! - mean)).toBeLessThan(0.03);
  expect(judgement!.training!.figures.log_loss!).toBeLessThan(metrics.log_loss!);
  const [apart] = await bench.sql(
    `SELECT count(*)::int AS rows FROM scratch.${data.holdoutTable!} h JOIN scratch.${data.trainedTable!} t USING (id) WHERE h.ravlen_output_0 = t.ravlen_output_0`,
  );
  expect(Number(apart!["rows"])).toBeLessThan(all.length / 50);
});

test("where every row trains and there are no folds, it is said that nothing is judged", async () => {
  const { model, training, holdout } = await trained("unjudged", "{by: none}");
  expect([training, holdout.length]).toEqual([(await idsWhere("answer IS NOT NULL")).length, 0]);
  expect(model.judgement).toMatchObject({ rows: 0, figures: {}, importanceOf: { training: true } });
  const { db } = bench.context.store;
  const { log } = await runRecord(db, model.runId);
  expect((await runById(db, model.runId))!.outcome).toContain("not evaluated");
  expect(log.map((line) => line.message).join()).toContain("this version is not evaluated");
  const judged = await openJudged(bench.context, model.id);
  expect(judged.place.table).toBe(model.data.trainedTable!);
  expect((await segmentsOf(bench.context.warehouse, judged, "cat")).segments.length).toBe(5);
  expect((await bench.run("score", "unjudged")).state).toBe("done");
});

test("training rows can be looked at as those that judge; the blind holdout once it is open", async () => {
  const { model, training } = await trained("parts", "{share: 0.25, seed: 5, blind: {share: 0.2}}");
  const trainedRows = await openJudged(bench.context, model.id, "training");
  const { segments } = await segmentsOf(bench.context.warehouse, trainedRows, "cat");
  expect(segments.reduce((sum, segment) => sum + segment.rows, 0)).toBe(training);
  expect(model.judgement!.training).toMatchObject({ rows: training, share: 1 });
  await expect(openJudged(bench.context, model.id, "blind")).rejects.toThrow("is not open");
  await openBlindPart(bench.context, model.id);
  const blind = await openJudged(bench.context, model.id, "blind");
  const page = await judgedRows(bench.context.warehouse, blind, "all", undefined, 0, 5);
  expect(page.rows.length).toBe(5);
});

test("rows, classes and groups of every part are counted before anything is trained", async () => {
  await bench.save(labFile({ name: "counted", holdout: "{by: named, groups: [3], blind: {share: 0.2}}" }));
  const preview = unwrap(
    await previewDivision(bench.context, "counted", {
      holdout: { by: "named", groups: [3, 5], blind: { groups: [11] } },
    }),
  );
  const { counts } = preview;
  const rows = new Map(counts!.parts.map(({ part, ...sizes }) => [part, sizes]));
  expect(rows.get("holdout")).toEqual({
    rows: (await idsWhere("answer IS NOT NULL AND site IN (3, 5)")).length,
    groups: 2,
  });
  expect(rows.get("blind")).toEqual({
    rows: (await idsWhere("answer IS NOT NULL AND site = 11")).length,
    groups: 1,
  });
  expect(counts!.classes!.find(({ part, value }) => part === "blind" && value === "true")!.rows).toBe(
    (await idsWhere("answer AND site = 11")).length,
  );
  expect(counts!.groups!.filter(({ part }) => part === "training").length).toBe(14);
  const wrong = unwrap(
    await previewDivision(bench.context, "counted", { holdout: { by: "table", table: "lab.nowhere" } }),
  );
  expect(wrong).toMatchObject({ counts: undefined, problems: [{ code: "unknown_table" }] });
});

test("groups and conditions with odd names, gaps and values that never occur divide as SQL itself would", async () => {
  await bench.sql(
    `CREATE TABLE lab.odd AS SELECT *, (ARRAY['O''Dell "x"; --', 'true', '007', NULL, 'ünïcode – dash'])[1 + id % 5] AS "a: group" FROM lab.rows`,
  );
  const file = labFile({
    name: "odd-groups",
    from: "lab.odd",
    holdout: `{by: named, groups: ["O'Dell \\"x\\"; --", "007", nowhere], blind: {where: "\\"a: group\\" = 'true' and x1 > 0"}}`,
  }).replace("group: site", 'group: "a: group"');
  await bench.save(file);
  const model = await bench.train("odd-groups");
  const known = "answer IS NOT NULL AND";
  expect(await idsOf(model.data.holdoutTable!)).toEqual(
    await idsWhere(`${known} "a: group" IN ('O''Dell "x"; --', '007')`, "lab.odd"),
  );
  expect(await idsOf(model.data.blindTable!)).toEqual(
    await idsWhere(`${known} "a: group" = 'true' AND x1 > 0`, "lab.odd"),
  );
  expect((await bench.run("score", "odd-groups")).state).toBe("done");
});
