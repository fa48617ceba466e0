import { findTable } from "@/core/plan/catalog";
import { describeColumn, dueProfiles, listTableFacts, putTableFacts } from "@/store/table-facts";
import { againstTarget, pairOf } from "@/warehouse/relate-columns";
import { suggestJoins } from "@/warehouse/suggest-joins";
import { loadDemo } from "../../../demo/load";
import { openBench, type Bench } from "../../../testing/warehouse";
import { refreshProfile, takeDueProfiles } from "./profiles";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.admin((client) => loadDemo(client, { scale: 0.05 }));
  await bench.sql(`CREATE SCHEMA "x y"; CREATE TABLE "x y".odd (id integer, same text, art text, n double precision, d date, y boolean, c text);
    INSERT INTO "x y".odd SELECT i, 'one', (ARRAY['Ostwick', 'ostwick', 'OSTWICK ', 'Tarnholm', 'Tarnhlom'])[CASE WHEN i <= 120 THEN 1 WHEN i <= 130 THEN 2 WHEN i <= 133 THEN 3 WHEN i <= 198 THEN 4 ELSE 5 END],
      CASE WHEN i = 7 THEN 1e6 WHEN i = 8 THEN NULL WHEN i = 9 THEN 'NaN' ELSE i % 10 END, date '2026-01-01' + i, i % 10 >= 5, (ARRAY['a', 'b', 'c'])[1 + i % 3] FROM generate_series(1, 200) i`);
});
afterAll(() => bench.close());

const table = async (schema: string, name: string) =>
  findTable(await bench.context.warehouse.catalog.read(), { schema, table: name })!;
const column = async (schema: string, name: string, of: string) =>
  (await table(schema, name)).columns.find((column) => column.name === of)!;

test("a profile says what a person should know, and is kept with its time", async () => {
  const reference = { schema: "x y", table: "odd" };
  await refreshProfile(bench.context, reference);
  const [kept] = await listTableFacts(bench.context.store.db, reference);
  expect(Date.now() - kept!.profiledAt!.getTime()).toBeLessThan(60_000);
  const remarks = Object.fromEntries(kept!.profile!.columns.map((column) => [column.column, column.remarks]));
  expect(remarks["id"]).toMatchObject({ likelyKey: true, constant: false });
  expect(remarks["same"]).toMatchObject({
    constant: true,
    likelyKey: false,
    lengths: { shortest: 3, median: 3, longest: 3, empty: 0 },
  });
  expect(remarks["art"]!.spellings!.map((group) => group.map((spelling) => spelling.value))).toEqual([
    ["Ostwick", "ostwick", "OSTWICK "],
    ["Tarnholm", "Tarnhlom"],
  ]);
  expect(remarks["n"]!.outliers!.rows).toBe(
    (await bench.sql(`SELECT count(*)::int AS n FROM "x y".odd WHERE n > 40`))[0]!["n"],
  );
  expect(remarks["d"]!.months!.map((month) => month.rows).reduce((sum, value) => sum + value, 0)).toBe(200);
});

test("a profile is taken when it is asked for or due, and a table that is gone is said once", async () => {
  const { db } = bench.context.store;
  await putTableFacts(db, { schema: "larkmere", table: "sites" }, { refreshHours: 24 });
  await putTableFacts(db, { schema: "larkmere", table: "gone" }, { profileAskedAt: new Date() });
  expect((await dueProfiles(db)).map((dueProfile) => dueProfile.table).sort()).toEqual(["gone", "sites"]);
  await takeDueProfiles(bench.context);
  expect(await dueProfiles(db)).toEqual([]);
  const facts = new Map((await listTableFacts(db)).map((tableFact) => [tableFact.tableName, tableFact]));
  expect(facts.get("sites")!.profile!.rows).toBe(
    Number((await bench.sql("SELECT count(*) AS n FROM larkmere.sites"))[0]!["n"]),
  );
  expect(facts.get("gone")!.profileProblem).toContain("no table larkmere.gone");
});

test("descriptions are written, changed and taken away without touching the others", async () => {
  const { db } = bench.context.store;
  const reference = { schema: "larkmere", table: "weather" };
  await putTableFacts(db, reference, { description: "Readings" });
  await describeColumn(db, reference, "rain_mm", 'Per hour; it\'s "rain"');
  await describeColumn(db, reference, "town", "Where");
  await describeColumn(db, reference, "town", "");
  expect((await listTableFacts(db, reference))[0]).toMatchObject({
    description: "Readings",
    columnDescriptions: { rain_mm: 'Per hour; it\'s "rain"' },
  });
});

test("two columns against each other count every row once; the correlation is PostgreSQL's", async () => {
  const { warehouse } = bench.context;
  const odd = await table("x y", "odd");
  const pair = await pairOf(warehouse, odd, await column("x y", "odd", "n"), await column("x y", "odd", "d"));
  expect(pair.counts.flat().reduce((sum, value) => sum + value, 0)).toBe(198);
  const [r] = await bench.sql(`SELECT corr(n, extract(epoch FROM d)) AS r FROM "x y".odd WHERE n <> 'NaN'`);
  expect(pair.correlation).toBeCloseTo(Number(r!["r"]), 10);
  const classes = await pairOf(
    warehouse,
    odd,
    await column("x y", "odd", "c"),
    await column("x y", "odd", "y"),
  );
  expect(classes.x).toEqual(["a", "b", "c"]);
  expect(classes.counts.flat().reduce((sum, value) => sum + value, 0)).toBe(200);
});

test("every column against a target: what decides it comes first, with the strength of its formula", async () => {
  const { warehouse } = bench.context;
  const odd = await table("x y", "odd");
  const view = await againstTarget(warehouse, odd, await column("x y", "odd", "y"));
  expect(view.balance).toEqual([
    { value: "false", rows: 100 },
    { value: "true", rows: 100 },
  ]);
  expect(view.columns[0]).toMatchObject({ column: "n" });
  expect(view.columns[0]!.strength).toBeGreaterThan(0.9);
  const [byHand] = await bench.sql(
    `SELECT sum(n * (m - (SELECT avg(y::int) FROM "x y".odd)) ^ 2) / (SELECT sum((y::int - (SELECT avg(y::int) FROM "x y".odd)) ^ 2) FROM "x y".odd) AS eta FROM (SELECT count(*) AS n, avg(y::int) AS m FROM "x y".odd GROUP BY c) g`,
  );
  expect(view.columns.find((column) => column.column === "c")!.strength).toBeCloseTo(
    Number(byHand!["eta"]),
    10,
  );
  const classes = await againstTarget(warehouse, odd, await column("x y", "odd", "c"));
  const [tau] =
    await bench.sql(`WITH j AS (SELECT art, c, count(*)::float AS n FROM "x y".odd GROUP BY 1, 2), a AS (SELECT art, sum(n) AS n FROM j GROUP BY 1), k AS (SELECT c, sum(n) AS n FROM j GROUP BY 1)
    SELECT ((SELECT sum(j.n ^ 2 / a.n / 200) FROM j JOIN a USING (art)) - (SELECT sum((n / 200) ^ 2) FROM k)) / (1 - (SELECT sum((n / 200) ^ 2) FROM k)) AS tau`);
  expect(classes.columns.find((column) => column.column === "art")!.strength).toBeCloseTo(
    Number(tau!["tau"]),
    10,
  );
});

test("joins are suggested by keys, names and measured overlap, with their multiplicity", async () => {
  const { warehouse } = bench.context;
  const { found } = await suggestJoins(
    warehouse,
    await warehouse.catalog.read(),
    await table("larkmere", "parcels"),
  );
  const sites = found.find((suggestion) => suggestion.table === "larkmere.sites")!;
  expect(sites).toMatchObject({
    columns: [{ here: "site_id", there: "site_id" }],
    overlap: { mostThere: 1, matchedHere: 1 },
  });
  const messages = found.find((suggestion) => suggestion.table === "larkmere.messages")!;
  expect(messages.overlap!.mostThere).toBe(
    Number(
      (
        await bench.sql(
          "SELECT max(n) AS n FROM (SELECT count(*) AS n FROM larkmere.messages WHERE parcel_id IS NOT NULL GROUP BY parcel_id) g",
        )
      )[0]!["n"],
    ),
  );
  expect(found.indexOf(sites)).toBeLessThan(found.indexOf(messages));
});

test("foreign keys suggest joins whatever their columns are called; what takes too long to measure is not dropped", async () => {
  const { warehouse } = bench.context;
  await bench.sql(
    `CREATE TABLE "x y".places (town text, number integer, PRIMARY KEY (town, number)); INSERT INTO "x y".places SELECT 't' || n % 3, n FROM generate_series(1, 30) n;
     CREATE TABLE "x y".visits (id integer PRIMARY KEY, at_town text, at_number integer, FOREIGN KEY (at_town, at_number) REFERENCES "x y".places (town, number)); INSERT INTO "x y".visits SELECT n, 't' || n % 3, n FROM generate_series(1, 20) n`,
  );
  const suggested = async () =>
    (await suggestJoins(warehouse, await warehouse.catalog.read(), await table("x y", "visits"))).found[0];
  const expected = {
    table: '"x y".places',
    because: "foreign key",
    columns: [
      { here: "at_town", there: "town" },
      { here: "at_number", there: "number" },
    ],
  };
  expect(await suggested()).toEqual({
    ...expected,
    overlap: { matchedHere: 1, matchedThere: 20 / 30, mostHere: 1, mostThere: 1 },
  });
  await bench.admin(async (client) => {
    await client.query('BEGIN; LOCK TABLE "x y".places IN ACCESS EXCLUSIVE MODE');
    try {
      expect(await suggested()).toEqual({ ...expected, overlap: undefined });
    } finally {
      await client.query("ROLLBACK");
    }
  });
});

test("of very many like columns the likeliest are compared, it is said how many were not, and all can be", async () => {
  const { warehouse } = bench.context;
  const others = Array.from(
    { length: 30 },
    (_, index) => `CREATE TABLE many_a.t${index} AS SELECT generate_series(1, 20) AS beacon_ref;`,
  );
  await bench.sql(
    `CREATE SCHEMA many_a; CREATE SCHEMA many_b; ${others.join(" ")} CREATE TABLE many_b.visits AS SELECT generate_series(1, 20) AS beacon_ref; CREATE TABLE many_b.zones AS SELECT generate_series(1, 20) AS beacon_ref`,
  );
  const visits = await table("many_b", "visits");
  const catalog = await warehouse.catalog.read();
  const some = await suggestJoins(warehouse, catalog, visits);
  expect([some.found.length, some.left]).toEqual([24, 7]);
  expect(some.found.map((suggested) => suggested.table)).toContain("many_b.zones");
  const all = await suggestJoins(warehouse, catalog, visits, true);
  expect([all.found.length, all.left]).toEqual([31, 0]);
});
