import { readFileSync } from "node:fs";
import { changeStep, insertStep, removeStep } from "@/core/pipeline/edit/steps";
import { unwrap } from "@/core/problem";
import type { CheckedPlan } from "@/core/plan/plan";
import { discardDraft, draftOf, keepDraft } from "@/store/drafts";
import { setTextsAside, textsAsideOf } from "@/store/texts-aside";
import { findPipeline } from "@/store/pipelines";
import { loadDemo } from "../../../demo/load";
import { DEMO_NOW } from "../../../demo/world";
import { openBench, type Bench } from "../../../testing/warehouse";
import { compareColumn } from "./compare";
import { valuesOf, pointsOf } from "./columns";
import { diagnoseJoin } from "./diagnose-join";
import { learnedByFold } from "./folds";
import { followRow } from "./follow";
import { estimatedRows, previewTime, stepCounts, stepPreview } from "./preview";
import { blockersOf, openDraft } from "./survey";
import { tryExpression } from "./try-expression";

const DEMO = readFileSync("demo/uncollected-72h.yaml", "utf8");
const time = previewTime(DEMO_NOW);
const MAIN = 1;
const at = (position: number) => ({ strand: MAIN, position });
let bench: Bench;
let plan: CheckedPlan;
const open = async (text: string, share = 1) => {
  const draft = await openDraft(text, bench.context.warehouse, share);
  return { ...draft, plan: draft.plan as CheckedPlan };
};

beforeAll(async () => {
  bench = await openBench();
  await bench.admin((client) => loadDemo(client, { scale: 0.05 }));
  plan = (await open(DEMO)).plan;
});
afterAll(() => bench.close());

test("a step that cannot be read yet is marked in its place, and everything before it can be looked at", async () => {
  const text = unwrap(insertStep(DEMO, at(2), { do: "join" }));
  const { survey, plan: drafted } = await open(text);
  const crossing = survey.braid!.crossings.find((crossing) => crossing.unready)!;
  expect(crossing).toMatchObject({ strand: "parcels", position: 2, kind: "join" });
  expect(crossing.problems.map((problem) => problem.location?.path?.slice(4)).flat()).toEqual(
    expect.arrayContaining(["with", "on"]),
  );
  expect(blockersOf(drafted, survey.problems, "parcels", 2)).toEqual([]);
  expect(blockersOf(drafted, survey.problems, "parcels", 3).length).toBeGreaterThan(0);
  expect(survey.keys["parcels"]!.map((key) => key !== "")).toEqual(
    survey.keys["parcels"]!.map((_, index) => index < 3),
  );
  expect((await stepCounts(drafted, bench.context.warehouse, "parcels", 2, time)).rows).toBe(
    (await stepCounts(plan, bench.context.warehouse, "parcels", 2, time)).rows,
  );
});

test("settings that no longer fit after a change above are marked, and stay in the file", async () => {
  const text = unwrap(removeStep(DEMO, at(1)));
  const { survey } = await open(text);
  const marked = survey.braid!.crossings.filter((crossing) =>
    crossing.problems.some((found) => found.severity === "error"),
  );
  expect(marked.map((crossing) => crossing.name)).toContain("weather and week");
  expect(survey.braid!.crossings).toHaveLength(12);
});

test("measurements keep their key while what they depend on stays the same", async () => {
  const renamed = (await open(unwrap(changeStep(DEMO, at(0), [{ path: ["name"], value: "other name" }]))))
    .survey.keys;
  const original = (await open(DEMO)).survey.keys;
  expect(renamed).toEqual(original);
  const changed = (await open(unwrap(changeStep(DEMO, at(9), [{ path: ["method"], value: "robust" }]))))
    .survey.keys;
  const same = original["parcels"]!.map((key, index) => key === changed["parcels"]![index]);
  expect(same.indexOf(false)).toBe(10);
  expect(changed["sites"]).toEqual(original["sites"]);
});

test("a share of the rows is the same rows every time, and joined tables stay whole", async () => {
  const { plan: small } = await open(DEMO, 0.1);
  const counts = await stepCounts(small, bench.context.warehouse, "parcels", 0, time);
  expect(counts.rows).toBeGreaterThan(220);
  expect(counts.rows).toBeLessThan(380);
  expect((await stepCounts(small, bench.context.warehouse, "sites", 0, time)).rows).toBe(
    (await stepCounts(plan, bench.context.warehouse, "sites", 0, time)).rows,
  );
  const guess = await estimatedRows(plan, bench.context.warehouse, "parcels", 1, time);
  expect(guess).toBeGreaterThan(0);
});

test("a column's distribution before and after a step", async () => {
  const filled = await compareColumn(plan, bench.context.warehouse, "parcels", 7, time, "weight_g");
  expect(filled.before!.missing).toBeGreaterThan(0);
  expect(filled.after!.missing).toBe(0);
  const fresh = await compareColumn(plan, bench.context.warehouse, "parcels", 2, time, "weekday");
  expect(fresh.before).toBeUndefined();
  expect(fresh.after!.distinct).toBe(7);
});

test("a join is diagnosed on both sides as statements by hand count it", async () => {
  await bench.sql(
    "INSERT INTO larkmere.sites SELECT (jsonb_populate_record(s, jsonb_build_object('site_id', 99901))).* FROM larkmere.sites s LIMIT 1",
  );
  const found = await diagnoseJoin(plan, bench.context.warehouse, "parcels", 3, time);
  const [byHand] = await bench.sql(
    "SELECT count(*) FILTER (WHERE NOT EXISTS (SELECT 1 FROM larkmere.sites s WHERE s.site_id = p.site_id)) AS here, count(*) AS rows FROM larkmere.parcels p WHERE delivered_at IS NOT NULL",
  );
  expect([found.here.rows, found.here.unmatched]).toEqual([Number(byHand!["rows"]), Number(byHand!["here"])]);
  expect(found.there.unmatched).toBeGreaterThanOrEqual(1);
  expect(found.there.sample.rows.map((row) => row[0])).toContain("99901");
  expect(found.repeated.keys).toBe(0);
  await expect(diagnoseJoin(plan, bench.context.warehouse, "parcels", 1, time)).rejects.toThrow("not a join");
});

test("one row is followed to where it ends, with the rows it was joined with", async () => {
  const [kept] = await bench.sql(
    "SELECT parcel_id, site_id FROM larkmere.parcels WHERE delivered_at IS NOT NULL ORDER BY 1 LIMIT 1",
  );
  const way = await followRow(plan, bench.context.warehouse, [String(kept!["parcel_id"])], time);
  expect(way).toHaveLength(plan.main.steps.length + 1);
  expect(way.every((place) => place.state === "there")).toBe(true);
  const joined = way[3]!.joined!;
  expect(joined.strand).toBe("sites");
  expect(joined.rows.rows[0]![joined.rows.columns.indexOf("site_id")]).toBe(String(kept!["site_id"]));
  const [dropped] = await bench.sql(
    "SELECT parcel_id FROM larkmere.parcels WHERE delivered_at IS NULL ORDER BY 1 LIMIT 1",
  );
  const short = await followRow(plan, bench.context.warehouse, [String(dropped!["parcel_id"])], time);
  expect(short.map((place) => place.state)).toEqual(["there", "gone"]);
  expect(short[1]!.because).toContain("delivered_at is missing");
  expect(
    (await followRow(plan, bench.context.warehouse, ["987654321"], time)).every(
      (place) => place.state === "absent",
    ),
  ).toBe(true);
});

test("what a step learns without each fold agrees with statements over the other folds", async () => {
  const values = (await learnedByFold(plan, bench.context.warehouse, 6, time)) as readonly {
    readonly values: Readonly<Record<string, number>>;
  }[];
  expect(values).toHaveLength(5);
  const base = `SELECT weight_g, ('x' || substr(md5('1' || chr(31) || parcel_id), 1, 8))::bit(32)::bigint / 4294967296.0 AS side, ('x' || substr(md5('1' || chr(31) || parcel_id), 17, 8))::bit(32)::bigint / 4294967296.0 AS draw
    FROM larkmere.parcels WHERE delivered_at <= timestamptz '${time}' - interval '72 hours'`;
  const seed = plan.file.holdout.seed;
  for (const [fold, value] of values.entries()) {
    const [row] = await bench.sql(
      `SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY weight_g) AS m FROM (${base.replaceAll("md5('1'", `md5('${seed}'`)}) b WHERE side >= ${plan.file.holdout.share} AND floor(draw * 5) <> ${fold}`,
    );
    expect(value.values["weight_g"]).toBe(Number(row!["m"]));
  }
});

test("values and points for forms; too many values are refused with their number", async () => {
  const values = await valuesOf(plan, bench.context.warehouse, "parcels", 0, time, "size_class");
  expect(values.length).toBeGreaterThan(2);
  expect(values[0]!.rows).toBeGreaterThanOrEqual(values[1]!.rows);
  await expect(valuesOf(plan, bench.context.warehouse, "parcels", 0, time, "parcel_id")).rejects.toThrow(
    "different values; at most 500",
  );
  const points = await pointsOf(plan, bench.context.warehouse, "parcels", 1, time, {
    x: "weight_g",
    y: "reminders_sent",
    colour: "size_class",
  });
  expect(points.points.length).toBeGreaterThan(100);
  expect(points.points.length).toBeLessThanOrEqual(points.total);
});

test("an expression is tried on sample rows while it is written; what it must not do is refused", async () => {
  const go = (expression: string, kind: "value" | "aggregate" = "value") =>
    tryExpression(plan, bench.context.warehouse, "parcels", 1, time, { expression, kind, by: [] });
  const good = await go("weight_g / 1000");
  expect(good).toMatchObject({ problems: [], sample: { columns: ["weight_g", "result"] } });
  expect(good.sample!.rows.length).toBeGreaterThan(0);
  expect((await go("wieght_g / 1000")).problems[0]).toMatchObject({
    code: "unknown_column",
    hint: expect.stringContaining("weight_g") as string,
  });
  expect((await go("avg(weight_g)", "aggregate")).sample!.rows).toHaveLength(1);
  for (const evil of [
    "pg_sleep(60)",
    "(select 1 from pg_authid)",
    "1); drop table larkmere.parcels; --",
    "pg_read_file('/etc/passwd')",
    "lo_import('/etc/passwd')",
    "current_setting('is_superuser')",
    "repeat('x', 1000000000)",
    "generate_series(1, 1000000000)",
  ]) {
    expect((await go(evil)).problems.length).toBeGreaterThan(0);
  }
});

test("a draft saved by somebody else meanwhile is not overwritten", async () => {
  await bench.save(DEMO);
  const { db } = bench.context.store;
  const pipeline = (await findPipeline(db, "uncollected-72h"))!;
  const mine = { pipelineId: pipeline.id, basedOn: 1 };
  expect(await keepDraft(db, { ...mine, text: "one", revision: 0 })).toBe(1);
  expect(await keepDraft(db, { ...mine, text: "two", revision: 1 })).toBe(2);
  expect(await keepDraft(db, { ...mine, text: "theirs", revision: 1 })).toMatchObject({
    text: "two",
    revision: 2,
  });
  expect(await keepDraft(db, { ...mine, text: "first", revision: 0 })).toMatchObject({ text: "two" });
  const both = await Promise.all([
    keepDraft(db, { ...mine, text: "a", revision: 2 }),
    keepDraft(db, { ...mine, text: "b", revision: 2 }),
  ]);
  expect(both.filter((revision) => revision === 3)).toHaveLength(1);
  await discardDraft(db, pipeline.id);
  expect(await draftOf(db, pipeline.id)).toBeUndefined();
});

test("texts that gave way are kept, each once and the newest of very many", async () => {
  const { db } = bench.context.store;
  const { id: pipelineId } = (await findPipeline(db, "uncollected-72h"))!;
  const aside = (text: string) => ({ pipelineId, basedOn: 1, text, whose: "mine" as const });
  await setTextsAside(db, [aside("one"), aside("two")]);
  await setTextsAside(db, [aside("two")]);
  const texts = async () => (await textsAsideOf(db, pipelineId)).map(({ text }) => text);
  expect((await texts()).sort()).toEqual(["one", "two"]);
  for (let number = 0; number < 45; number += 1) await setTextsAside(db, [aside(`text ${number}`)]);
  const kept = await texts();
  expect([kept.length, kept[0], kept.includes("one")]).toEqual([40, "text 44", false]);
});

test("a preview of a good place works while another place is wrong", async () => {
  const { plan: drafted } = await open(
    unwrap(changeStep(DEMO, at(7), [{ path: ["columns"], value: ["no_such"] }])),
  );
  const { page } = await stepPreview(drafted, bench.context.warehouse, "parcels", 6, time);
  expect(page.rows.length).toBeGreaterThan(0);
});
