import { predict } from "@/core/learn/compiled";
import { describeProblem } from "@/core/problem";
import { runById } from "@/store/runs";
import { ensureLedger, land } from "@/warehouse/postgres/delivery";
import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
});
afterAll(() => bench.close());

const later = (days: number): Date => new Date(TEST_NOW.getTime() + days * 86_400_000);
const count = async (from: string): Promise<number> =>
  Number((await bench.sql(`SELECT count(*) AS n FROM ${from}`))[0]!["n"]);

test("delivered predictions equal the core's own arithmetic on the same rows to 1e-12", async () => {
  await bench.save(labFile());
  const model = await bench.train("lab");
  const run = await bench.run("score", "lab");
  expect(run).toMatchObject({ state: "done", rows: 400 });
  const rows = await bench.sql("SELECT * FROM predictions.lab");
  expect(rows).toHaveLength(400);
  for (const row of rows) {
    const expected = predict(model.model, {
      x1: Number(row["x1"]),
      x2: Number(row["x2"]),
      cat: row["cat"] as string | null,
    })[0]!;
    expect(Math.abs(Number(row["probability"]) - expected)).toBeLessThan(1e-12);
    expect(row["prediction"]).toBe(expected >= 0.5);
    expect(row).toMatchObject({ model_version: model.number, run_id: run.id, run_time: TEST_NOW });
  }
  expect(await count("lab.rows r JOIN predictions.lab p USING (id) WHERE r.answer IS NOT NULL")).toBe(0);
  expect(
    await bench.sql(
      "SELECT rows::int, target_table, model_version FROM predictions.ravlen_ledger WHERE run_id = $1",
      [run.id],
    ),
  ).toEqual([{ rows: 400, target_table: "predictions.lab", model_version: model.number }]);
  expect(
    await count(
      "pg_class WHERE relnamespace = 'scratch'::regnamespace AND relkind = 'r' AND relname !~ '^(holdout|trained)'",
    ),
  ).toBe(0);
});

test("upsert keeps one row per key, the newest; append adds a run's rows; both tell run and version", async () => {
  await bench.save(
    labFile({
      name: "modes",
      delivery:
        "{name: one, table: predictions.one, mode: upsert}, {name: all, table: predictions.all, mode: append}",
    }),
  );
  await bench.train("modes");
  for (const delivery of ["one", "all"]) {
    await bench.run("score", "modes", { delivery });
    await bench.sql("DELETE FROM lab.rows WHERE id = 10");
    await bench.run("score", "modes", { delivery, at: later(1) });
    await bench.sql(
      "INSERT INTO lab.rows SELECT 10, site, x1, x2, cat, seen, NULL FROM lab.rows WHERE id = 20",
    );
  }
  expect(
    await bench.sql(
      "SELECT run_time::date::text AS day, count(*)::int AS n FROM predictions.one GROUP BY 1 ORDER BY 1",
    ),
  ).toEqual([
    { day: "2026-06-30", n: 1 },
    { day: "2026-07-01", n: 399 },
  ]);
  expect(
    await bench.sql(
      "SELECT run_time::date::text AS day, count(*)::int AS n FROM predictions.all GROUP BY 1 ORDER BY 1",
    ),
  ).toEqual([
    { day: "2026-06-30", n: 400 },
    { day: "2026-07-01", n: 399 },
  ]);
});

test("a table that was there before is appended to when it fits; without a key of its own, repeats are looked for", async () => {
  await bench.sql(labTable({ table: "lab.before" }).replace("PRIMARY KEY (id)", "UNIQUE (id)"));
  await bench.save(
    labFile({
      name: "before",
      from: "lab.before",
      delivery: "{name: all, table: predictions.before, mode: append}",
    }),
  );
  await bench.train("before");
  await bench.sql(
    `CREATE TABLE predictions.before AS SELECT * FROM predictions.all WHERE false; ALTER TABLE predictions.before OWNER TO "${bench.warehouseName}_writer"`,
  );
  expect(await bench.run("score", "before")).toMatchObject({ state: "done", rows: 400 });
  await bench.sql(
    "ALTER TABLE lab.before DROP CONSTRAINT before_id_key; INSERT INTO lab.before SELECT * FROM lab.before WHERE id IN (15, 25)",
  );
  const repeated = await bench.run("score", "before", { at: later(1) });
  expect(repeated.problems[0]).toMatchObject({
    code: "key_repeats",
    message: expect.stringContaining("15; 25") as string,
  });
  expect(await count("predictions.before")).toBe(400);
  await bench.sql(
    "DELETE FROM lab.before a USING lab.before b WHERE a.id = b.id AND a.ctid > b.ctid; ALTER TABLE predictions.before ADD UNIQUE (id)",
  );
  expect((await bench.run("score", "before", { at: later(2) })).problems[0]).toMatchObject({
    code: "target_misfit",
    message: expect.stringContaining("cannot be appended") as string,
  });
});

test("rows land once, however often the move is tried", async () => {
  const session = await bench.context.warehouse.session();
  try {
    await ensureLedger(session, "predictions");
    await session.run("CREATE TABLE scratch.stage_again AS SELECT * FROM predictions.all", "stage");
    const landing = {
      run: "11111111-1111-4111-8111-111111111111",
      pipeline: "modes",
      formerNames: [],
      delivery: "all",
      modelVersion: 1,
      runTime: TEST_NOW.toISOString(),
    };
    const move = () =>
      land(
        session,
        "predictions",
        {
          stage: { schema: "scratch", table: "stage_again" },
          key: ["id"],
          mode: "append",
          tables: [{ schema: "predictions", table: "again" }],
        },
        landing,
      );
    await expect(move()).rejects.toThrow(/does not exist/);
    // A move that failed left no entry that would keep the next one from its work.
    await session.run("CREATE TABLE predictions.again (LIKE predictions.all)", "target");
    expect(await move()).toEqual({ rows: 799, byTable: [799], before: false });
    expect(await move()).toEqual({ rows: 799, byTable: [], before: true });
    expect(await count("predictions.again")).toBe(799);
    await session.run("DROP TABLE scratch.stage_again", "clean up");
  } finally {
    session.release();
  }
});

describe("a broken contract stops before anything is written, and yesterday's predictions stay", () => {
  const text = labFile({
    name: "contract",
    from: "lab.guarded",
    delivery:
      "{name: desk, table: predictions.guarded, contract: {most_missing_increase: 0.1, most_unseen: 0.1}}",
  });
  beforeAll(async () => {
    await bench.sql(labTable({ table: "lab.guarded" }));
    await bench.save(text);
    await bench.train("contract");
  });
  beforeEach(async () => {
    await bench.sql(`DROP TABLE IF EXISTS predictions.guarded; ${labTable({ table: "lab.guarded" })}`);
    expect((await bench.run("score", "contract")).state).toBe("done");
  });

  test.each([
    [
      "a column that is gone",
      "ALTER TABLE lab.guarded DROP COLUMN x2",
      "source_gone",
      /"x2" of lab.guarded no longer exists/,
    ],
    [
      "a column of another type",
      "ALTER TABLE lab.guarded ALTER x1 TYPE text",
      "source_retyped",
      /"x1" of lab.guarded was double precision in training and is text now/,
    ],
    [
      "a table that is gone",
      "ALTER TABLE lab.guarded RENAME TO elsewhere_guarded",
      "source_gone",
      /lab.guarded no longer exists/,
    ],
    [
      "many more gaps",
      "UPDATE lab.guarded SET x2 = NULL WHERE answer IS NULL AND id % 2 = 0",
      "contract_missing",
      /"x2" is missing in [\d.]+ %/,
    ],
    [
      "many categories never seen",
      "UPDATE lab.guarded SET cat = 'larch' WHERE answer IS NULL AND id % 4 = 0",
      "contract_unseen",
      /25 % of the rows to score have a "cat" that is unseen in training/,
    ],
    [
      "a number that nothing fills",
      "UPDATE lab.guarded SET x1 = NULL WHERE id = 15",
      "rows_unscored",
      /1 of 400 rows have no prediction/,
    ],
    [
      "a key that repeats",
      "ALTER TABLE lab.guarded DROP CONSTRAINT guarded_pkey; INSERT INTO lab.guarded SELECT * FROM lab.guarded WHERE id = 15",
      "key_repeats",
      /for example 15/,
    ],
    [
      "a prediction table of another shape",
      "ALTER TABLE predictions.guarded ALTER probability TYPE text",
      "target_misfit",
      /its "probability" is text, not double precision/,
    ],
    [
      "a prediction table without its key",
      "ALTER TABLE predictions.guarded DROP CONSTRAINT guarded_pkey",
      "target_misfit",
      /no unique key over id/,
    ],
  ])("%s", async (_what, change, code, words) => {
    const before = await bench.sql(
      "SELECT id, probability::text, run_id FROM predictions.guarded ORDER BY id",
    );
    await bench.sql(`DROP TABLE IF EXISTS lab.elsewhere_guarded; ${change}`);
    const run = await bench.run("score", "contract", { at: later(1) });
    expect(run.state).toBe("failed");
    expect(run.problems[0]!.code).toBe(code);
    expect(describeProblem(run.problems[0]!)).toMatch(words);
    expect(
      await bench.sql("SELECT id, probability::text, run_id FROM predictions.guarded ORDER BY id"),
    ).toEqual(before);
    expect(await bench.sql("SELECT 1 FROM predictions.ravlen_ledger WHERE run_id = $1", [run.id])).toEqual(
      [],
    );
  });

  test("a few unseen categories are scored as the average category", async () => {
    await bench.sql("UPDATE lab.guarded SET cat = 'larch' WHERE id = 15");
    expect((await bench.run("score", "contract", { at: later(1) })).state).toBe("done");
    expect(await count("predictions.guarded WHERE id = 15 AND probability BETWEEN 0.001 AND 0.999")).toBe(1);
  });
});

test("a join that multiplies rows stops training and scoring, unless it was expected", async () => {
  await bench.sql(
    "CREATE TABLE lab.sites AS SELECT s AS site, s * 1.5 AS size FROM generate_series(0, 16) s",
  );
  const steps = "- {do: join, with: sites, on: [site], take: [size]}";
  const text = labFile({
    name: "joined",
    steps,
    delivery: "{name: desk, table: predictions.joined}",
  }).replace("roles:\n", "  - {name: sites, from: lab.sites}\nroles:\n");
  await bench.save(text);
  await bench.train("joined");
  await bench.sql("INSERT INTO lab.sites VALUES (3, 9)");
  for (const kind of ["train", "score"] as const) {
    const run = await bench.run(kind, "joined");
    expect(run.problems[0]).toMatchObject({
      code: "join_fans_out",
      message: expect.stringContaining("3 / 2") as string,
    });
  }
});

test("names with spaces, capitals, quotes and other alphabets go through the whole job", async () => {
  await bench.sql(
    `CREATE SCHEMA "Läger ""B"""; CREATE TABLE "Läger ""B"""."Zeilen; DROP" AS SELECT id AS "Schlüssel ""Nr""", x1 AS "größe'x", coalesce(x2, 0) AS "名前", CASE cat WHEN 'oak' THEN 'it''s' WHEN 'elm' THEN 'x"y\\z' ELSE coalesce(cat, '木') END AS "Art=1", seen, answer AS "Antwort?" FROM lab.rows`,
  );
  const text = `ravlen: 1
name: größen
strands:
  - name: "rows'; --"
    from: {schema: 'Läger "B"', table: 'Zeilen; DROP'}
    steps:
      - {do: scale, name: "it's \\"scaled\\" */", columns: ["größe'x"]}
      - {do: derive, columns: {"a\\"b": '"名前" * 2'}}
roles: {key: ['Schlüssel "Nr"'], target: {column: Antwort?, kind: binary}, exclude: [{column: 名前, because: copied}]}
rows: {from: "rows'; --", train: '"Antwort?" is not null', score: '"Antwort?" is null'}
candidates: [{name: plain, algorithm: logistic_regression}]
delivery: [{name: "tisch'", table: 'predictions."Größen ""x"""', columns: ["größe'x", 'a"b', Art=1]}]`;
  await bench.save(text);
  const model = await bench.train("größen");
  expect((await bench.run("score", "größen")).problems).toEqual([]);
  const rows = await bench.sql('SELECT * FROM predictions."Größen ""x"""');
  expect(rows).toHaveLength(400);
  for (const row of rows)
    expect(
      Math.abs(
        Number(row["probability"]) -
          predict(model.model, {
            "größe'x": Number(row["größe'x"]),
            'a"b': Number(row['a"b']),
            "Art=1": row["Art=1"] as string,
          })[0]!,
      ),
    ).toBeLessThan(1e-12);
});

test("nothing to score is no failure, and nothing in service is said", async () => {
  await bench.save(
    labFile({ name: "quiet", score: "x1 > 1000", delivery: "{name: desk, table: predictions.quiet}" }),
  );
  const refused = await bench.run("score", "quiet");
  expect(refused.problems[0]!.code).toBe("nothing_in_service");
  await bench.train("quiet");
  expect(await bench.run("score", "quiet")).toMatchObject({ state: "done", rows: 0 });
  expect(await runById(bench.context.store.db, refused.id)).toMatchObject({ state: "failed" });
});

describe("two roles", () => {
  test("the reader can not write, the writer can not touch sources", async () => {
    await expect(bench.context.warehouse.read("CREATE TABLE predictions.mine (a int)")).rejects.toThrow(
      /read-only|permission denied/,
    );
    // Nor when it asks for a transaction that may write.
    const client = await bench.context.warehouse.readers.connect();
    await client.query("BEGIN READ WRITE");
    await expect(client.query("DELETE FROM lab.rows")).rejects.toThrow(/permission denied/);
    client.release(true);
    const session = await bench.context.warehouse.session();
    try {
      await expect(session.run("DELETE FROM lab.rows", "try")).rejects.toThrow(/permission denied/);
      await expect(session.run("CREATE TABLE lab.mine (a int)", "try")).rejects.toThrow(/permission denied/);
    } finally {
      session.release();
    }
  });
});
