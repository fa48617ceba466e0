import { labFile, labTable } from "../../../testing/lab";
import { openBench, type Bench } from "../../../testing/warehouse";
import { judgedRows } from "./judged-rows";
import { openJudged } from "./judged-table";
import { segmentsOf } from "./segments";

/** What rows of a version held before the steps changed it, beside what the model got. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  await bench.sql(labTable({ table: "lab.others", rows: 300 }));
});
afterAll(() => bench.close());

const STEPS = `- {do: derive, columns: {x1: "x1 * 100"}}
- {do: keep, columns: [id, site, x1, x2, cat, seen, answer]}
- {do: scale, columns: [x1, x2]}
- {do: encode, columns: [cat]}
`;

const DELIVERY = "{name: desk, table: predictions.originals}";

test.each([
  ["a holdout", "{share: 0.25, seed: 5}", "", "holdout", "lab.rows"],
  ["folds that judge", "{by: none}", "folds: {count: 3}", "holdout", "lab.rows"],
  ["training rows", "{share: 0.25, seed: 5}", "", "training", "lab.rows"],
  ["another table", "{by: table, table: lab.others}", "", "holdout", "lab.others"],
] as const)("%s: original values are those of the source", async (name, holdout, more, part, source) => {
  const pipeline = `original-${name.replaceAll(" ", "-")}`;
  await bench.save(labFile({ name: pipeline, steps: STEPS, holdout, more, delivery: DELIVERY }));
  const judged = await openJudged(bench.context, (await bench.train(pipeline)).id, part);
  const { rows, columns } = await judgedRows(bench.context.warehouse, judged, "all", undefined, 0, 5000);
  expect(rows.length).toBeGreaterThan(100);
  expect(columns).toEqual(expect.arrayContaining(["x1", "x2", "cat"]));
  const found = new Map((await bench.sql(`SELECT * FROM ${source}`)).map((row) => [String(row["id"]), row]));
  const asNumber = (value: string | null | undefined): number | null =>
    value === null || value === undefined ? null : Number(value);
  for (const { key, originals, values } of rows) {
    const row = found.get(key["id"]!)!;
    expect([asNumber(originals["x1"]), asNumber(originals["x2"]), originals["cat"]]).toEqual([
      row["x1"],
      row["x2"],
      row["cat"],
    ]);
    expect(Math.abs(Number(values["x1"]))).toBeLessThan(5);
    expect(values["x2"]).not.toBeNull();
  }
  const segments = await segmentsOf(bench.context.warehouse, judged, "cat");
  expect(segments.segments.map(({ label }) => label).sort()).toEqual([
    "(missing)",
    "ash",
    "elm",
    "fir",
    "oak",
  ]);
});

test("of rows that a step makes of others, only what happens afterwards has an original", async () => {
  const steps = `- {do: derive, columns: {x1: "x1 * 100"}}
- {do: lag, by: [site], order: seen, columns: [x2], back: [1]}
- {do: keep, columns: [id, site, seen, x1, answer]}
- {do: scale, columns: [x1]}
`;
  await bench.save(
    labFile({ name: "regrouped", steps, delivery: DELIVERY }).replace(/ +- {do: fill.*\n/, ""),
  );
  const judged = await openJudged(bench.context, (await bench.train("regrouped")).id);
  const { rows } = await judgedRows(bench.context.warehouse, judged, "all", undefined, 0, 20);
  const found = new Map(
    (await bench.sql("SELECT id, x1 FROM lab.rows")).map((row) => [String(row["id"]), row]),
  );
  for (const { key, originals } of rows)
    expect(Number(originals["x1"])).toBeCloseTo(100 * Number(found.get(key["id"]!)!["x1"]), 9);
});
