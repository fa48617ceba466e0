import pg from "pg";
import { grantStatements } from "./grants";
import { openBench, testAdmin, type Bench } from "../../../testing/warehouse";
import { rightsOfRole } from "./role-rights";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(`CREATE ROLE granted_maker; CREATE SCHEMA shown AUTHORIZATION granted_maker; CREATE SCHEMA closed;
    CREATE TABLE shown.rows AS SELECT 1 AS id; CREATE TABLE closed.rows AS SELECT 1 AS id;
    REVOKE ALL ON closed.rows, shown.rows FROM "${bench.warehouseName}_reader", "${bench.warehouseName}_writer"`);
  const statements = grantStatements({
    database: bench.warehouseName,
    reader: "granted_reader",
    writer: "granted_writer",
    own: ["mine", "Mine too"],
    read: ["shown"],
    owners: ["granted_maker"],
    temporary: "1GB",
  });
  // Running them again does no harm.
  for (const statement of [...statements, ...statements]) await bench.sql(statement);
  await bench.sql("ALTER ROLE granted_reader PASSWORD 'r'; ALTER ROLE granted_writer PASSWORD 'w'");
  await bench.sql("SET ROLE granted_maker; CREATE TABLE shown.later AS SELECT 2 AS id; RESET ROLE");
});
afterAll(async () => {
  for (const role of ["granted_reader", "granted_writer", "granted_maker"])
    await bench.sql(`DROP OWNED BY ${role} CASCADE; DROP ROLE ${role}`);
  await bench.close();
});

async function as<T>(user: string, password: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ ...testAdmin(), database: bench.warehouseName, user, password });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** The code of PostgreSQL's refusal; "done" when there is none. */
const outcome = (client: pg.Client, sql: string): Promise<string> =>
  client.query(sql).then(
    () => "done",
    (error: { readonly code?: string }) => error.code ?? "?",
  );

const NOT_ALLOWED = "42501";

test("the reader reads the named schemas and what the writer made, and nothing else", () =>
  as("granted_writer", "w", async (writer) => {
    expect(await outcome(writer, 'CREATE TABLE "Mine too".made AS SELECT 3 AS id')).toBe("done");
    expect(await outcome(writer, "CREATE TABLE shown.mine AS SELECT 1")).toBe(NOT_ALLOWED);
    expect(await outcome(writer, "TABLE shown.later")).toBe("done");
    expect(await outcome(writer, "TABLE closed.rows")).toBe(NOT_ALLOWED);
    expect(await outcome(writer, "SELECT rolpassword FROM pg_authid")).toBe(NOT_ALLOWED);
    await as("granted_reader", "r", async (reader) => {
      for (const table of ["shown.rows", "shown.later", '"Mine too".made'])
        expect([table, await outcome(reader, `TABLE ${table}`)]).toEqual([table, "done"]);
      expect(await outcome(reader, "TABLE closed.rows")).toBe(NOT_ALLOWED);
      expect(await outcome(reader, "SELECT rolpassword FROM pg_authid")).toBe(NOT_ALLOWED);
      await reader.query("SET default_transaction_read_only = off");
      expect(await outcome(reader, "DELETE FROM shown.rows")).toBe(NOT_ALLOWED);
      expect(await outcome(reader, "CREATE TABLE mine.x AS SELECT 1")).toBe(NOT_ALLOWED);
      const { rows } = await reader.query<{ temp_file_limit: string }>("SHOW temp_file_limit");
      expect(rows[0]?.temp_file_limit).toBe("1GB");
    });
  }));

test("a role that has more privileges than needed is told so", async () => {
  const rights = (user: string, own: readonly string[]) =>
    as(user, user === "granted_reader" ? "r" : "w", (client) => rightsOfRole(client, own));
  expect(await rights("granted_reader", [])).toEqual({ superuser: false, tooMuch: [] });
  expect(await rights("granted_writer", ["mine", "Mine too"])).toEqual({ superuser: false, tooMuch: [] });
  await bench.sql("GRANT pg_read_all_data TO granted_reader; GRANT INSERT ON closed.rows TO granted_reader");
  expect(await rights("granted_reader", [])).toEqual({
    superuser: false,
    tooMuch: ["read everything, the hashes of passwords included (pg_read_all_data)", 'write in "closed"'],
  });
  expect(await bench.admin((client) => rightsOfRole(client, []))).toMatchObject({ superuser: true });
});

test("a question to the warehouse cannot write, whatever its role may", async () => {
  await bench.sql(
    `GRANT USAGE ON SCHEMA shown TO "${bench.warehouseName}_reader"; GRANT ALL ON shown.rows TO "${bench.warehouseName}_reader"`,
  );
  const { warehouse } = bench.context;
  await warehouse.read("SELECT set_config('default_transaction_read_only', 'off', false)");
  await expect(warehouse.read("DELETE FROM shown.rows")).rejects.toMatchObject({ code: "25006" });
  expect(await warehouse.read("SELECT count(*)::integer AS rows FROM shown.rows")).toEqual([{ rows: 1 }]);
});
