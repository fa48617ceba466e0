import { readFileSync } from "node:fs";
import { unwrap } from "@/core/problem";
import type { CheckedPlan } from "@/core/plan/plan";
import { loadDemo } from "../../../demo/load";
import { DEMO_NOW } from "../../../demo/world";
import { openBench, type Bench } from "../../../testing/warehouse";
import { checkText } from "../check-file";
import { previewTime, stepCounts, stepPreview } from "./preview";

let bench: Bench;
let plan: CheckedPlan;
const time = previewTime(DEMO_NOW);
beforeAll(async () => {
  bench = await openBench();
  await bench.admin((client) => loadDemo(client, { scale: 0.05 }));
  plan = unwrap(await checkText(readFileSync("demo/uncollected-72h.yaml", "utf8"), bench.context.warehouse));
});
afterAll(() => bench.close());

const count = async (from: string): Promise<number> =>
  Number((await bench.sql(`SELECT count(*) AS n FROM ${from}`))[0]!["n"]);

test("rows and completeness after a step are those of a statement written by hand", async () => {
  const { warehouse } = bench.context;
  const before = await stepCounts(plan, warehouse, "parcels", 0, time);
  expect(before.rows).toBe(3000);
  expect(before.present["weight_g"]).toBe(await count("larkmere.parcels WHERE weight_g IS NOT NULL"));
  const delivered = await stepCounts(plan, warehouse, "parcels", 1, time);
  expect(delivered.rows).toBe(await count("larkmere.parcels WHERE delivered_at IS NOT NULL"));
  const joined = await stepCounts(plan, warehouse, "parcels", 4, time);
  expect(joined.rows).toBe(delivered.rows);
  expect(joined.present["age_band"]).toBe(
    await count(
      "larkmere.parcels JOIN larkmere.recipients USING (recipient_id) WHERE delivered_at IS NOT NULL AND age_band IS NOT NULL",
    ),
  );
  const filled = await stepCounts(plan, warehouse, "parcels", 7, time);
  expect(filled.present["weight_g"]).toBe(filled.rows);
  expect((await stepCounts(plan, warehouse, "town weather", 2, time)).rows).toBe(
    await count("(SELECT DISTINCT town, observed_at::date FROM larkmere.weather) d"),
  );
});

test("a schema of the user's may be called preview and hold a table base", async () => {
  const { warehouse } = bench.context;
  await bench.sql(
    "CREATE SCHEMA preview; CREATE TABLE preview.base AS SELECT n AS id, n % 2 = 0 AS even, CASE WHEN n % 3 > 0 THEN n * 1.0 END AS x FROM generate_series(1, 90) n",
  );
  const own = unwrap(
    await checkText(
      `ravlen: 1
name: own-preview
strands: [{name: rows, from: preview.base, steps: [{do: fill, columns: [x], with: mean}, {do: scale, columns: [x]}]}]
roles: {key: [id], target: {column: even, kind: binary}}
rows: {from: rows, train: id <= 60, score: id > 60}
holdout: {share: 0.0001, seed: 1}
candidates: [{name: c, algorithm: logistic_regression}]`,
      warehouse,
    ),
  );
  const { learned } = await stepPreview(own, warehouse, "rows", 1, time);
  const [mean] = await bench.sql("SELECT avg(x)::float8 AS m FROM preview.base WHERE id <= 60");
  expect((learned as { values: { x: number } }).values.x).toBeCloseTo(Number(mean!["m"]), 9);
});

test("a preview shows the step's rows, its SQL and what it would learn today, and writes nothing", async () => {
  const { warehouse } = bench.context;
  const before = await count("pg_class");
  const { page, sql, learned } = await stepPreview(plan, warehouse, "parcels", 7, time);
  expect(page.rows).toHaveLength(50);
  expect(page.columns).toContain("rain_in_open_mm");
  expect(sql).toContain("coalesce");
  const [median] = await bench.sql(
    `SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY weight_g) AS m FROM larkmere.parcels WHERE delivered_at <= timestamptz '${time}' - interval '72 hours'`,
  );
  // The preview learns from training rows alone: all rows whose answer is known, less the holdout.
  const value = (learned as { values: { weight_g: number } }).values.weight_g;
  expect(value).not.toBeNaN();
  expect(Math.abs(value / Number(median!["m"]) - 1)).toBeLessThan(0.2);
  const encoded = await stepPreview(plan, warehouse, "parcels", 9, time);
  expect(encoded.page.columns.filter((name) => name.startsWith("size_class="))).toEqual([
    "size_class=M",
    "size_class=S",
    "size_class=XL",
  ]);
  expect(await count("pg_class")).toBe(before);
});

test("a count is remembered while nothing changes, and taken anew when a source does", async () => {
  const { warehouse } = bench.context;
  const first = await stepCounts(plan, warehouse, "parcels", 1, time);
  expect(await stepCounts(plan, warehouse, "parcels", 1, time)).toBe(first);
  await bench.sql(
    "DELETE FROM larkmere.parcels WHERE parcel_id = (SELECT min(parcel_id) FROM larkmere.parcels WHERE delivered_at IS NOT NULL)",
  );
  expect((await stepCounts(plan, warehouse, "parcels", 1, time)).rows).toBe(first.rows - 1);
});

test("previews change with the hour, not with the second", () => {
  expect(previewTime(new Date("2026-06-30T21:59:59.999Z"))).toBe("2026-06-30T21:00:00.000Z");
});
