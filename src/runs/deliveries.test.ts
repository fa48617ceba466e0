import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
});
beforeEach(() => bench.sql(labTable()));
afterAll(() => bench.close());

const later = (days: number): Date => new Date(TEST_NOW.getTime() + days * 86_400_000);
const all = async (sql: string): Promise<unknown[]> => [...(await bench.sql(sql))];
const only = async (sql: string): Promise<unknown> => Object.values((await bench.sql(sql))[0]!)[0];

/** Saves a pipeline with one delivery, trains it, and gives what scores it. */
async function delivering(name: string, delivery: string, more: Parameters<typeof labFile>[0] = {}) {
  await bench.save(labFile({ name, delivery: `{name: desk, ${delivery}}`, ...more }));
  await bench.train(name);
  let day = 0;
  return async () => {
    const run = await bench.run("score", name, { at: later(day++) });
    return { rows: run.rows, problems: run.problems.map((problem) => problem.code), id: run.id };
  };
}

test("replace: replaced at each run, and keeps its grants and its readers' view", async () => {
  const score = await delivering("replaced", "table: predictions.replaced, mode: replace");
  expect(await score()).toMatchObject({ rows: 400, problems: [] });
  await bench.sql("CREATE VIEW lab.reads AS SELECT count(*)::int AS rows FROM predictions.replaced");
  await bench.sql("DELETE FROM lab.rows WHERE id <= 500");
  expect(await score()).toMatchObject({ rows: 300, problems: [] });
  expect(await all("SELECT rows FROM lab.reads")).toEqual([{ rows: 300 }]);
  expect(await only("SELECT count(DISTINCT run_id)::int FROM predictions.replaced")).toBe(1);
  await bench.sql("DROP VIEW lab.reads");
});

test("partition: rows with the same value are replaced together, others stay", async () => {
  const score = await delivering(
    "parted",
    "table: predictions.parted, mode: partition, partition: day, columns: [day]",
    {
      steps: "- {do: derive, columns: {day: seen + 0}}",
      score: "'seen >= date ''2026-05-27'''",
      train: "answer is not null",
    },
  );
  const first = await score();
  expect(first.problems).toEqual([]);
  const before = await all(
    "SELECT day::text, count(*)::int AS rows FROM predictions.parted GROUP BY 1 ORDER BY 1",
  );
  expect(before.length).toBe(3);
  // What comes the next time is one day only, and fewer rows of it.
  await bench.sql(
    "DELETE FROM lab.rows WHERE seen IN (date '2026-05-27', date '2026-05-28') OR (seen = date '2026-06-02' AND id % 2 = 0)",
  );
  expect(await score()).toMatchObject({ rows: 200, problems: [] });
  expect(
    await all("SELECT day::text, count(*)::int AS rows FROM predictions.parted GROUP BY 1 ORDER BY 1"),
  ).toEqual([...before.slice(0, 2), { day: "2026-06-02", rows: 200 }]);
});

test("routes: every row is in one table, a key that changes its route leaves the old one, and the ledger tells how many went where", async () => {
  const score = await delivering(
    "routed",
    "table: predictions.routed_rest, routes: [{when: probability >= 0.7, table: predictions.routed_high}, {when: \"x1 > 0 and cat = 'oak'\", table: predictions.routed_oak}], columns: [x1, cat]",
  );
  const first = await score();
  expect(first).toMatchObject({ rows: 400, problems: [] });
  const union =
    "SELECT id, 'high' AS t, probability, x1, cat FROM predictions.routed_high UNION ALL SELECT id, 'oak', probability, x1, cat FROM predictions.routed_oak UNION ALL SELECT id, 'rest', probability, x1, cat FROM predictions.routed_rest";
  const wrong = `SELECT count(*)::int FROM (${union}) u WHERE t <> CASE WHEN probability >= 0.7 THEN 'high' WHEN x1 > 0 AND cat = 'oak' THEN 'oak' ELSE 'rest' END`;
  expect(await only(wrong)).toBe(0);
  expect(await only(`SELECT count(DISTINCT id)::int FROM (${union}) u`)).toBe(400);
  const counted = (
    await bench.sql(`SELECT t, count(*)::int AS rows FROM (${union}) u GROUP BY 1 ORDER BY 1`)
  ).map((row) => Number(row["rows"]));
  expect(counted).toHaveLength(3);
  expect(await only(`SELECT by_table FROM predictions.ravlen_ledger WHERE run_id = '${first.id}'`)).toEqual({
    "predictions.routed_high": counted[0],
    "predictions.routed_oak": counted[1],
    "predictions.routed_rest": counted[2],
  });
  // Every row changes its probability, and many their table.
  await bench.sql("UPDATE lab.rows SET x1 = -x1 WHERE answer IS NULL");
  expect(await score()).toMatchObject({ rows: 400, problems: [] });
  expect(await only(wrong)).toBe(0);
  expect(
    await all(`SELECT count(*)::int AS rows, count(DISTINCT id)::int AS keys FROM (${union}) u`),
  ).toEqual([{ rows: 400, keys: 400 }]);
});

test("not yet predicted: only keys that no table of the delivery holds are scored", async () => {
  const score = await delivering(
    "fresh",
    "table: predictions.fresh, mode: append, rows: not_yet_predicted, routes: [{when: prediction, table: predictions.fresh_yes}]",
  );
  expect(await score()).toMatchObject({ rows: 400, problems: [] });
  expect(await score()).toMatchObject({ rows: 0, problems: [] });
  await bench.sql(
    "INSERT INTO lab.rows SELECT id + 100000, site, x1, x2, cat, seen, NULL FROM lab.rows WHERE answer IS NULL AND id <= 50",
  );
  expect(await score()).toMatchObject({ rows: 10, problems: [] });
  expect(
    await only(
      "SELECT count(*)::int FROM (SELECT id FROM predictions.fresh UNION ALL SELECT id FROM predictions.fresh_yes) u",
    ),
  ).toBe(410);
});

test("newer by a column: rows after the newest that has landed, also when a run in between had none", async () => {
  const score = await delivering("newer", "table: predictions.newer, rows: {newer_by: id}");
  expect(await score()).toMatchObject({ rows: 400, problems: [] });
  expect(await score()).toMatchObject({ rows: 0, problems: [] });
  await bench.sql(
    "INSERT INTO lab.rows SELECT id + 5000, site, x1, x2, cat, seen, NULL FROM lab.rows WHERE answer IS NULL AND id <= 50",
  );
  expect(await score()).toMatchObject({ rows: 10, problems: [] });
  expect(await score()).toMatchObject({ rows: 0, problems: [] });
  expect(
    await only(
      "SELECT newest FROM predictions.ravlen_ledger WHERE pipeline = 'newer' ORDER BY landed_at DESC LIMIT 1",
    ),
  ).toBe("5050");
});

test.each([
  ["append", "rows: not_yet_predicted"],
  ["append", "rows: not_yet_predicted, routes: [{when: prediction, table: predictions.TABLE_yes}]"],
  ["append", "rows: {newer_by: id}"],
  ["upsert", "rows: not_yet_predicted"],
  ["upsert", "rows: {newer_by: id}"],
])(
  "mode %s, %s: runs at the same moment land every key once, and the mark stays at the newest",
  async (mode, rows) => {
    const name = `at_once_${rows.length}_${mode}`;
    await delivering(name, `table: predictions.${name}, mode: ${mode}, ${rows.replace("TABLE", name)}`);
    const runs = await Promise.all([3, 1, 2, 0].map((day) => bench.run("score", name, { at: later(day) })));
    expect(runs.map((run) => [run.state, run.problems])).toEqual(runs.map(() => ["done", []]));
    expect(runs.reduce((sum, run) => sum + (run.rows ?? 0), 0)).toBe(400);
    const tables = rows.includes("routes") ? [name, `${name}_yes`] : [name];
    const union = tables.map((table) => `SELECT id FROM predictions.${table}`).join(" UNION ALL ");
    expect(
      await all(`SELECT count(*)::int AS rows, count(DISTINCT id)::int AS keys FROM (${union}) AS u`),
    ).toEqual([{ rows: 400, keys: 400 }]);
    if (rows.includes("newer_by"))
      expect(
        await all(`SELECT DISTINCT newest FROM predictions.ravlen_ledger WHERE pipeline = '${name}'`),
      ).toEqual([{ newest: "2000" }]);
  },
);

test("a delivery that is new in the file is served by the version in service, as long as nothing else has changed", async () => {
  const score = await delivering("added", "table: predictions.added");
  await score();
  const two = labFile({
    name: "added",
    delivery:
      "{name: desk, table: predictions.added}, {name: second, table: predictions.added_second, mode: replace}",
  });
  await bench.save(two);
  expect(await bench.run("score", "added", { delivery: "second", at: later(9) })).toMatchObject({
    state: "done",
    rows: 400,
  });
  // With another step the version would no longer say what the file says.
  await bench.save(two.replace("with: median", "with: mean").replace("name: second", "name: third"));
  expect((await bench.run("score", "added", { delivery: "third", at: later(10) })).problems[0]).toMatchObject(
    { code: "no_delivery" },
  );
});

test.each([
  ["mode: partition", "no_partition"],
  ["mode: upsert, partition: id", "no_partition"],
  ["mode: partition, partition: x1", "not_delivered"],
  ["rows: {newer_by: seen}", "not_delivered"],
  ["mode: replace, rows: not_yet_predicted", "rows_and_replace"],
  ["routes: [{when: x1, table: predictions.b}], columns: [x1]", "not_a_condition"],
  ["routes: [{when: x1 > 0, table: predictions.b}]", "unknown_column"],
  ["routes: [{when: prediction, table: predictions.a}]", "duplicate_table"],
  ["routes: [{when: prediction, table: nowhere}]", "unknown_table"],
])("%s is refused when the file is checked: %s", async (fields, code) => {
  await expect(
    bench.save(labFile({ name: "refused", delivery: `{name: desk, table: predictions.a, ${fields}}` })),
  ).rejects.toMatchObject({
    problems: [
      expect.objectContaining({
        code,
        location: expect.objectContaining({ line: expect.any(Number) as number }) as unknown,
      }),
    ],
  });
});
