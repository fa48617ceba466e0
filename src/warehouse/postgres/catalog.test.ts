import { findTable } from "@/core/plan/catalog";
import { openBench, type Bench } from "../../../testing/warehouse";

/** The catalog is kept while nothing changes, and never longer. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql("CREATE SCHEMA kept; CREATE TABLE kept.rows (id int NOT NULL, level float8)");
});
afterAll(() => bench.close());

const read = () => bench.context.warehouse.catalog.read();
const columns = async (table = "rows"): Promise<readonly string[] | undefined> =>
  findTable(await read(), { schema: "kept", table })?.columns.map(
    ({ name, declared, nullable }) => `${name} ${declared}${nullable ? "" : " not null"}`,
  );

test("as long as nothing changes the same catalog is given; rows that are written change nothing", async () => {
  const first = await read();
  await bench.sql("INSERT INTO kept.rows VALUES (1, 2), (2, 3); ANALYZE kept.rows");
  expect(await read()).toBe(first);
});

test.each([
  ["a column that was added", "ALTER TABLE kept.rows ADD COLUMN flow int", "rows", "flow integer"],
  ["a column with another type", "ALTER TABLE kept.rows ALTER COLUMN flow TYPE text", "rows", "flow text"],
  ["a column with another name", "ALTER TABLE kept.rows RENAME COLUMN flow TO slope", "rows", "slope text"],
  [
    "a column that may not be null",
    "ALTER TABLE kept.rows ALTER COLUMN level SET NOT NULL",
    "rows",
    "level double precision not null",
  ],
  ["a table with another name", "ALTER TABLE kept.rows RENAME TO lines", "lines", "slope text"],
])("%s is seen at once", async (_, statement, table, expected) => {
  await read();
  await bench.sql(statement);
  expect(await columns(table)).toContain(expected);
});

test("what is dropped and what may not be read any more is gone at once, and a change that was rolled back is none", async () => {
  const { user } = bench.context.warehouse.config.reader;
  const before = await read();
  await bench.admin(async (client) => {
    await client.query("BEGIN");
    await client.query("ALTER TABLE kept.lines ADD COLUMN never int");
    await client.query("ROLLBACK");
  });
  expect((await read()).tables).toEqual(before.tables);
  await bench.sql("ALTER TABLE kept.lines DROP COLUMN slope");
  expect(await columns("lines")).toEqual(["id integer not null", "level double precision not null"]);
  await bench.sql(`REVOKE SELECT ON kept.lines FROM "${user}"`);
  expect(await columns("lines")).toBeUndefined();
  await bench.sql(`GRANT SELECT ON kept.lines TO "${user}"`);
  expect(await columns("lines")).toHaveLength(2);
  await bench.sql(`REVOKE USAGE ON SCHEMA kept FROM "${user}"`);
  expect(await columns("lines")).toBeUndefined();
});
