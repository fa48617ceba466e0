import { findTable } from "@/core/plan/catalog";
import { table as rowsOf } from "@/core/relation/relation";
import { openBench, type Bench } from "../../testing/warehouse";
import { profileColumn } from "./profile";
import { pageOfTable } from "./sample";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(`CREATE SCHEMA "S 1";
    CREATE DOMAIN "S 1".percent AS numeric(5,2);
    CREATE TABLE "S 1"."T""x" (id integer PRIMARY KEY, x double precision, wann timestamptz, "Art" varchar(20), ja boolean, leer text, anteil "S 1".percent, roh jsonb, tag date UNIQUE, place point);
    INSERT INTO "S 1"."T""x" SELECT i, CASE WHEN i % 10 = 0 THEN NULL WHEN i = 51 THEN 'NaN' WHEN i = 52 THEN 'Infinity' ELSE i::double precision END, timestamptz '2026-01-01 00:00Z' + i * interval '1 day', CASE WHEN i % 3 = 0 THEN 'größe' ELSE 'it''s' END, i % 2 = 0, NULL, i, '{}', date '2026-01-01' + i, point(i, 0) FROM generate_series(1, 100) i;
    CREATE TABLE "S 1".child (parent integer REFERENCES "S 1"."T""x"); CREATE TABLE "S 1".nothing (a integer); CREATE VIEW "S 1".seen AS SELECT id FROM "S 1"."T""x"; ANALYZE`);
});
afterAll(() => bench.close());

const profile = async (table: string, column: string) => {
  const found = findTable(await bench.context.warehouse.catalog.read(), { schema: "S 1", table })!;
  return profileColumn(
    bench.context.warehouse,
    rowsOf(found, [column]),
    found.columns.find((oneColumn) => oneColumn.name === column)!,
  );
};

test("the catalog knows names and types, domains by what they stand for", async () => {
  const found = findTable(await bench.context.warehouse.catalog.read(), { schema: "S 1", table: 'T"x' })!;
  expect(found.columns.map((column) => [column.name, column.type, column.nullable])).toEqual([
    ["id", "integer", false],
    ["x", "double precision", true],
    ["wann", "timestamptz", true],
    ["Art", "text", true],
    ["ja", "boolean", true],
    ["leer", "text", true],
    ["anteil", "numeric", true],
    ["roh", "json", true],
    ["tag", "date", true],
    ["place", "other", true],
  ]);
  expect(await bench.context.warehouse.catalog.keys({ schema: "S 1", table: 'T"x' })).toEqual([
    { kind: "primary key", columns: ["id"], target: null, references: null },
    { kind: "unique", columns: ["tag"], target: null, references: null },
  ]);
  expect((await bench.context.warehouse.catalog.keys({ schema: "S 1", table: "child" }))[0]).toMatchObject({
    kind: "foreign key",
    columns: ["parent"],
    target: '"S 1"."T""x"',
    references: { schema: "S 1", table: 'T"x', columns: ["id"] },
  });
  expect(
    (await bench.context.warehouse.catalog.tables())
      .filter((table) => table.schema === "S 1")
      .map((table) => [table.table, table.kind]),
  ).toEqual([
    ['T"x', "table"],
    ["child", "table"],
    ["nothing", "table"],
    ["seen", "view"],
  ]);
});

test("numbers are summarised with gaps, and what is not finite breaks nothing", async () => {
  const x = await profile('T"x', "x");
  expect(x).toMatchObject({ rows: 100, missing: 10, distinct: 90, smallest: "1" });
  expect(x.histogram.reduce((sum, bar) => sum + bar.rows, 0)).toBe(88);
  expect(await profile('T"x', "id")).toMatchObject({
    missing: 0,
    distinct: 100,
    smallest: "1",
    largest: "100",
    quartiles: ["25", "50", "75"],
    mean: 50.5,
  });
});

test("texts and yes/no show what is frequent, times their spread, an empty column that it is empty", async () => {
  expect((await profile('T"x', "Art")).topValues).toEqual([
    { value: "it's", rows: 67 },
    { value: "größe", rows: 33 },
  ]);
  expect((await profile('T"x', "ja")).topValues).toEqual([
    { value: "false", rows: 50 },
    { value: "true", rows: 50 },
  ]);
  expect((await profile('T"x', "wann")).histogram.reduce((sum, bar) => sum + bar.rows, 0)).toBe(100);
  expect(await profile('T"x', "leer")).toMatchObject({
    missing: 100,
    distinct: 0,
    smallest: null,
    histogram: [],
    topValues: [],
  });
  expect(await profile('T"x', "roh")).toMatchObject({ distinct: 1, topValues: [{ value: "{}", rows: 100 }] });
  expect(await profile("nothing", "a")).toMatchObject({ rows: 0, missing: 0, distinct: 0, quartiles: null });
});

test("rows come in pages, sorted by the values of any column and not by their text, gaps last", async () => {
  const table = findTable(await bench.context.warehouse.catalog.read(), { schema: "S 1", table: 'T"x' })!;
  const sorted = async (column: string, descending: boolean, offset: number): Promise<unknown> => {
    const orderBy = { column, descending };
    const page = await pageOfTable(bench.context.warehouse, table, { offset, limit: 4, orderBy });
    return page.rows.map((row) => row[page.columns.indexOf(column)]);
  };
  expect(await sorted("id", true, 0)).toEqual(["100", "99", "98", "97"]);
  expect(await sorted("x", false, 86)).toEqual(["98", "99", "Infinity", "NaN"]);
  expect(await sorted("x", false, 90)).toEqual([null, null, null, null]);
  expect(await sorted("roh", true, 0)).toEqual(["{}", "{}", "{}", "{}"]);
  expect(await sorted("place", true, 0)).toEqual(["(99,0)", "(98,0)", "(97,0)", "(96,0)"]);
});

test("a count is taken anew only after a change, and tells when that was", async () => {
  const table = { schema: "S 1", table: "nothing" };
  const first = await bench.context.warehouse.catalog.facts(table);
  expect(first.rows).toBe(0);
  expect(await bench.context.warehouse.catalog.facts(table)).toBe(first);
  await bench.sql('INSERT INTO "S 1".nothing VALUES (1), (2)');
  const second = await bench.context.warehouse.catalog.facts(table);
  expect(second.rows).toBe(2);
  expect(Date.now() - Date.parse(second.changedAt!)).toBeLessThan(60_000);
});
