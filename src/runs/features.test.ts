import { deliveryNamed } from "@/core/pipeline/deliveries";
import { newestByDelivery } from "@/store/runs";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";

/** Prepared features in a table of the warehouse, for others to train on. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
});
afterAll(() => bench.close());

const STEPS = `- {do: derive, columns: {place: "'p' || site"}}
- {do: target_mean, columns: [place], smoothing: 3}
- {do: scale, columns: [x1]}
- {do: encode, columns: [cat]}
`;
const FEATURES = "{name: shared, of: features, table: predictions.shared, mode: replace}";
const SCORES = "{name: desk, table: predictions.desk, columns: [x1, x2, place]}";
const fileOf = (name: string, delivery: string): string =>
  labFile({ name, steps: STEPS, delivery, holdout: "{share: 0.25, seed: 5, blind: {share: 0.1}}" });
const count = async (sql: string): Promise<number> => Number((await bench.sql(sql))[0]!["n"]);
const commentOf = async (table: string): Promise<string> =>
  String((await bench.sql(`SELECT obj_description('${table}'::regclass) AS says`))[0]!["says"]);

test("without a version in service the steps learn from training rows; blind answers stay out; the comment names the file's version", async () => {
  await bench.save(fileOf("alone", FEATURES));
  const run = await bench.run("score", "alone");
  expect(run.problems).toEqual([]);
  const rows = await bench.sql(
    "SELECT part, count(*)::int AS rows, count(answer)::int AS answers FROM predictions.shared GROUP BY part",
  );
  const parts = new Map(rows.map((row) => [String(row["part"]), row]));
  expect([...parts.keys()].sort()).toEqual(["blind", "holdout", "not in training", "training"]);
  expect(parts.get("blind")!["answers"]).toBe(0);
  expect(parts.get("training")!["answers"]).toBe(parts.get("training")!["rows"]);
  expect(run.rows).toBe(await count("SELECT count(*) AS n FROM lab.rows"));
  // The scale is that of the training rows alone.
  const [scaled] = await bench.sql(
    "SELECT abs(avg(x1)) < 1e-9 AS centred, abs(stddev_samp(x1) - 1) < 1e-9 AS spread FROM predictions.shared WHERE part = 'training'",
  );
  expect(scaled).toEqual({ centred: true, spread: true });
  const columns = await bench.sql(
    "SELECT attname::text AS name FROM pg_attribute WHERE attrelid = 'predictions.shared'::regclass AND attnum > 0 ORDER BY attnum",
  );
  expect(columns.map((row) => row["name"])).toEqual(
    ["id", "answer", "seen", "site", "x1", "x2", "cat=elm", "cat=fir", "cat=oak", "place", "part"].concat([
      "file_version",
      "run_id",
      "run_time",
      "made_at",
    ]),
  );
  expect(await commentOf("predictions.shared")).toContain("file version 1;");
  expect(await count("SELECT count(*) AS n FROM pg_tables WHERE schemaname = 'scratch'")).toBe(0);
});

test("with a version in service they are what that version learned from and scores, row by row", async () => {
  await bench.save(fileOf("served", `${SCORES}, ${FEATURES}`));
  const model = await bench.train("served");
  expect((await bench.run("score", "served")).problems).toEqual([]);
  expect((await bench.run("score", "served", { delivery: "shared" })).problems).toEqual([]);
  const differing = async (table: string, part: string): Promise<readonly number[]> => {
    const [row] = await bench.sql(
      `SELECT count(*)::int AS rows, count(*) FILTER (WHERE abs(f.x1 - o.x1) > 1e-12 OR abs(f.x2 - o.x2) > 1e-12 OR abs(f.place - o.place) > 1e-12 OR f.place IS NULL)::int AS wrong
       FROM predictions.shared f JOIN ${table} o USING (id) WHERE f.part = '${part}'`,
    );
    return [Number(row!["rows"]), Number(row!["wrong"])];
  };
  const { holdoutTable, trainedTable, trainingRows, holdoutRows } = model.data;
  expect(await differing(`scratch.${holdoutTable!}`, "holdout")).toEqual([holdoutRows, 0]);
  expect(await differing(`scratch.${trainedTable!}`, "training")).toEqual([trainingRows, 0]);
  const scored = await count("SELECT count(*) AS n FROM predictions.desk");
  expect(await differing("predictions.desk", "not in training")).toEqual([scored, 0]);
  const [indicator] = await bench.sql(
    `SELECT count(*)::int AS wrong FROM predictions.shared f JOIN lab.rows r USING (id) WHERE f."cat=oak" <> (r.cat IS NOT DISTINCT FROM 'oak')::int`,
  );
  expect(indicator!["wrong"]).toBe(0);
  expect(await commentOf("predictions.shared")).toContain("those of version 1");
});

test("a new version of the file is said in the comment, only new rows are added on request, and a bound on rows stops", async () => {
  const upsert = FEATURES.replace("replace}", "upsert, rows: not_yet_predicted}").replace(
    "predictions.shared",
    "predictions.more",
  );
  await bench.save(fileOf("more", upsert));
  expect((await bench.run("score", "more")).rows).toBe(2000);
  await bench.sql(
    "INSERT INTO lab.rows SELECT id + 100000, site, x1, x2, cat, seen, answer FROM lab.rows WHERE id <= 50",
  );
  await bench.save(fileOf("more", upsert).replace("seed: 5", "seed: 6"));
  expect((await bench.run("score", "more")).rows).toBe(50);
  expect(await commentOf("predictions.more")).toContain("file version 2;");
  expect(
    await bench.sql("SELECT file_version, count(*)::int AS rows FROM predictions.more GROUP BY 1 ORDER BY 1"),
  ).toEqual([
    { file_version: 1, rows: 2000 },
    { file_version: 2, rows: 50 },
  ]);
  await bench.save(fileOf("more", upsert.replace("}", ", contract: {least_rows: 5}}")));
  const stopped = await bench.run("score", "more");
  expect(stopped.problems[0]).toMatchObject({ code: "contract_rows" });
  // The page of deliveries says of each how its newest run ended.
  const newest = await newestByDelivery(bench.context.store.db, stopped.pipelineId);
  expect(newest.map(({ id, state }) => ({ id, state }))).toEqual([{ id: stopped.id, state: "failed" }]);
  expect(await count("SELECT count(*) AS n FROM predictions.more")).toBe(2050);
  await bench.sql("DELETE FROM lab.rows WHERE id > 100000");
});

test("where none is named, predictions are meant", () => {
  const [features, scores] = [
    { name: "a", of: "features" },
    { name: "b", of: "predictions" },
  ] as never[];
  expect(deliveryNamed([features!, scores!], undefined)).toBe(scores);
  expect(deliveryNamed([features!], undefined)).toBe(features);
});
