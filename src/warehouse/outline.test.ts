import { outlineTable, stateOfKey } from "./outline";
import { findTable, type CatalogTable } from "@/core/plan/catalog";
import { proposeKey } from "@/core/pipeline/proposal/propose-key";
import { openBench, type Bench } from "../../testing/warehouse";

let bench: Bench;
const WIDE = Array.from({ length: 450 }, (_, index) => `nullif(n % ${index + 2}, 0) AS "c ${index}"`);
beforeAll(async () => {
  bench = await openBench();
  await bench.sql("CREATE SCHEMA outlines");
  await bench.sql(
    `CREATE TABLE outlines.wide AS SELECT n AS "ravlen_number", ${WIDE.join(", ")} FROM generate_series(1, 997) n`,
  );
  await bench.sql(
    "CREATE TABLE outlines.readings AS SELECT ('s' || n % 7) AS site, date '2026-01-01' + n / 7 AS day, 'x' AS kind, sin(n) AS level, '{}'::json AS raw FROM generate_series(0, 699) n",
  );
  await bench.sql("CREATE VIEW outlines.seen AS SELECT * FROM outlines.readings");
  await bench.sql(
    "CREATE TABLE outlines.large AS SELECT n AS id, n % 10 = 0 AS late FROM generate_series(1, 900000) n",
  );
  await bench.sql("ALTER TABLE outlines.large ADD UNIQUE (id)");
  await bench.sql("CREATE TABLE outlines.none (a integer, b text)");
  await bench.sql("ANALYZE");
});
afterAll(() => bench.close());

const known = async (table: string): Promise<CatalogTable> =>
  findTable(await bench.context.warehouse.catalog.read(), { schema: "outlines", table })!;
const look = async (table: string) => outlineTable(bench.context.warehouse, await known(table));

test("gaps and different values of hundreds of columns are those that are there, also beside a name of ours", async () => {
  const { rows, close, whole, columns } = await look("wide");
  expect([rows, close, whole, columns.length]).toEqual([997, 997, true, 451]);
  columns.slice(1).forEach(({ missing, distinct }, index) => {
    expect([missing, distinct]).toEqual([Math.floor(997 / (index + 2)), Math.min(index + 1, 997)]);
  });
});

test("a key is found where no single column is one; of views too, and values of any type are counted", async () => {
  for (const table of ["readings", "seen"]) {
    const found = await look(table);
    expect(proposeKey(found)?.columns.toSorted()).toEqual(["day", "site"]);
    expect(found.columns.map(({ distinct }) => distinct)).toEqual([7, 100, 1, 700, 1]);
  }
  expect(await look("none")).toMatchObject({ rows: 0, close: 0, keys: [] });
});

test("of a large table a part is looked at, whose size is said", async () => {
  const found = await look("large");
  expect(found.whole).toBe(false);
  expect(found.rows).toBeGreaterThan(100_000);
  expect(found.rows).toBeLessThan(400_001);
  expect(found.close).toBe(10_000);
  expect(proposeKey({ ...found, keys: [] })?.columns).toEqual(["id"]);
});

test("how a key holds is counted over all rows", async () => {
  const { warehouse } = bench.context;
  const readings = await known("readings");
  expect(await stateOfKey(warehouse, readings, ["site", "day"])).toEqual({ missing: 0, repeated: 0 });
  expect(await stateOfKey(warehouse, readings, ["site"])).toEqual({ missing: 0, repeated: 7 });
  expect(await stateOfKey(warehouse, await known("wide"), ["c 0"])).toEqual({ missing: 498, repeated: 1 });
});
