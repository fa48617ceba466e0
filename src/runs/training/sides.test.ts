import { previewDivision } from "@/server/division";
import { unwrap } from "@/core/problem";
import { findPipeline } from "@/store/pipelines";
import { runRecord } from "@/store/runs";
import { truthOfPipeline } from "@/store/truth";
import { labFile, labTable } from "../../../testing/lab";
import { openBench, type Bench } from "../../../testing/warehouse";

/** An answer of several values that is made yes or no by naming those of both sides. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  await bench.sql(labTable({ table: "lab.others", rows: 700 }));
});
afterAll(() => bench.close());

const TARGET = '{column: cat, kind: binary, positive: [oak, "it\'s"], negative: [elm, ash]}';
const fileOf = (name: string, options: Parameters<typeof labFile>[0] = {}): string =>
  labFile({
    name,
    steps:
      "- {do: derive, columns: {place: \"'p' || site\"}}\n- {do: target_mean, columns: [place], smoothing: 3}\n",
    roles: "exclude: [{column: answer, because: another question}]",
    train: "'seen < cast(run_time() as date)'",
    score: "'seen = cast(run_time() as date)'",
    delivery: "{name: desk, table: predictions.sides, mode: append}",
    ...options,
  }).replace("{column: answer, kind: binary}", TARGET);
const day = (number: number): Date => new Date(`2026-06-0${number}T08:00:00Z`);
const ASKED = "seen < '2026-06-01'";
const count = async (where: string, table = "lab.rows"): Promise<number> =>
  Number((await bench.sql(`SELECT count(*) AS n FROM ${table} WHERE ${where}`))[0]!["n"]);

test("only rows with a named answer train and judge, the others are counted, and steps learn from the named ones alone", async () => {
  await bench.save(fileOf("sides"));
  const model = await bench.train("sides", day(1));
  const { trainingRows, holdoutRows, leftOut, holdoutTable } = model.data;
  expect(trainingRows + holdoutRows).toBe(await count(`${ASKED} AND cat IN ('oak', 'elm', 'ash')`));
  // A missing answer is none; it is not counted as another one.
  expect(leftOut).toBe(await count(`${ASKED} AND cat = 'fir'`));
  const [held] = await bench.sql(
    `SELECT count(*) FILTER (WHERE (h.ravlen_target = 1) <> (r.cat = 'oak'))::int AS wrong, count(*) FILTER (WHERE r.cat NOT IN ('oak', 'elm', 'ash'))::int AS others FROM scratch.${holdoutTable!} h JOIN lab.rows r USING (id)`,
  );
  expect(held).toEqual({ wrong: 0, others: 0 });
  const [means] = await bench.sql(
    `WITH t AS (SELECT r.* FROM lab.rows r WHERE ${ASKED} AND cat IN ('oak', 'elm', 'ash') AND id NOT IN (SELECT id FROM scratch.${holdoutTable!})),
    m AS (SELECT site, (sum((cat = 'oak')::int) + 3 * (SELECT avg((cat = 'oak')::int) FROM t)) / (count(*) + 3) AS mean FROM t GROUP BY site)
    SELECT count(*)::int AS wrong FROM scratch.${holdoutTable!} h JOIN lab.rows r USING (id) JOIN m ON m.site = r.site WHERE abs(h.place - m.mean) > 1e-9`,
  );
  expect(means!["wrong"]).toBe(0);
  const { steps } = await runRecord(bench.context.store.db, model.runId);
  expect(steps.find(({ name }) => name === "exclude other target values")!.rows).toBe(leftOut);
});

test("the division is counted before training as training divides it, with every value of the answer", async () => {
  const { counts, problems } = unwrap(
    await previewDivision(bench.context, "sides", { roles: {}, holdout: undefined, folds: undefined }),
  );
  expect(problems).toEqual([]);
  expect(counts!.leftOut).toBe(await count("cat = 'fir'"));
  expect(Object.fromEntries(counts!.answers!.map(({ value, rows }) => [value, rows]))).toEqual({
    oak: await count("cat = 'oak'"),
    elm: await count("cat = 'elm'"),
    ash: await count("cat = 'ash'"),
    fir: await count("cat = 'fir'"),
  });
});

test("rows of another table that judge are told apart in the same way, and scored rows that turn out neither count for nothing", async () => {
  await bench.save(fileOf("sides-table", { holdout: "{by: table, table: lab.others}" }));
  const model = await bench.train("sides-table", day(1));
  expect(model.data.holdoutRows).toBe(await count("cat IN ('oak', 'elm', 'ash')", "lab.others"));
  expect((await bench.run("score", "sides-table", { at: day(2) })).state).toBe("done");
  expect(await count("true", "predictions.sides")).toBe(await count("seen >= '2026-06-01'"));
  await bench.run("score", "sides-table", { at: day(3) });
  const { db } = bench.context.store;
  const days = await truthOfPipeline(db, (await findPipeline(db, "sides-table"))!.id, "2026-05-01");
  expect(days.reduce((sum, day) => sum + day.answered, 0)).toBe(
    await count("seen >= '2026-06-01' AND cat IN ('oak', 'elm', 'ash')"),
  );
});
