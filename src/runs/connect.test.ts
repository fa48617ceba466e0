import { randomBytes } from "node:crypto";
import { grantStatements } from "@/warehouse/postgres/grants";
import { readWarehouse, setDemoState, warehouseMark } from "@/store/settings";
import { tryRoles } from "@/warehouse/postgres/try-roles";
import type { WarehouseConfig } from "@/warehouse/port/engine";
import { labFile, labTable } from "../../testing/lab";
import { openBench, testAdmin, type Bench } from "../../testing/warehouse";
import { connectWarehouse } from "./connect";

/** Connecting a warehouse of one's own: two roles in another database, as a person would name them. */
let bench: Bench;
let other: Bench;
let config: WarehouseConfig;
const key = randomBytes(32);
const READER = `try_reader_${randomBytes(3).toString("hex")}`;
const WRITER = `try_writer_${randomBytes(3).toString("hex")}`;
const OWN = ["given", "kept", "brought"] as const;

beforeAll(async () => {
  [bench, other] = await Promise.all([openBench(), openBench()]);
  await other.sql(labTable({ rows: 100 }));
  const statements = grantStatements({
    database: other.warehouseName,
    reader: READER,
    writer: WRITER,
    own: OWN,
    read: ["lab"],
    owners: [],
  });
  for (const statement of statements) await other.sql(statement);
  await other.sql(`ALTER ROLE ${READER} PASSWORD 'r-secret'; ALTER ROLE ${WRITER} PASSWORD 'w-secret'`);
  const { host, port } = testAdmin();
  const place = { host, port, database: other.warehouseName };
  config = {
    reader: { ...place, user: READER, password: "r-secret" },
    writer: { ...place, user: WRITER, password: "w-secret" },
    outputSchema: OWN[0],
    scratchSchema: OWN[1],
    importSchema: OWN[2],
  };
});
afterAll(async () => {
  for (const role of [READER, WRITER]) await other.sql(`DROP OWNED BY ${role} CASCADE; DROP ROLE ${role}`);
  await Promise.all([bench.close(), other.close()]);
});

/** What is wrong or doubtful, in one line each. */
const found = async (wanted: WarehouseConfig): Promise<readonly string[]> =>
  (await tryRoles(wanted))
    .filter(({ state }) => state !== "good")
    .map(({ role, what, state, detail }) => `${state}: ${role} ${what}: ${detail ?? ""}`);

test("roles as the statements make them are good, and nothing is left of what was tried", async () => {
  expect(await found(config)).toEqual([]);
  const left = await other.sql("SELECT 1 FROM pg_class WHERE relname LIKE 'ravlen_try%'");
  expect(left).toEqual([]);
});

test.each<readonly [string, (good: WarehouseConfig) => WarehouseConfig, RegExp]>([
  [
    "a wrong password",
    (good) => ({ ...good, reader: { ...good.reader, password: "no" } }),
    /^wrong: reader cannot log in: The password is wrong, or there is no role/,
  ],
  [
    "another database",
    (good) => ({ ...good, writer: { ...good.writer, database: "nowhere_at_all" } }),
    /^wrong: writer cannot log in: There is no database "nowhere_at_all"/,
  ],
  [
    "a port at which nothing listens",
    (good) => ({ ...good, reader: { ...good.reader, port: 1 } }),
    /^wrong: reader cannot log in: Nothing is listening at .*:1\.$/,
  ],
  [
    "a superuser",
    (good) => ({ ...good, writer: { ...testAdmin(), database: good.writer.database } }),
    /^wrong: writer has more privileges than needed: It is a superuser/,
  ],
  [
    "a reader that writes",
    (good) => ({ ...good, reader: good.writer }),
    /^wrong: reader can create tables: It can create tables in/,
  ],
  [
    "a schema that is not there",
    (good) => ({ ...good, outputSchema: "not found" }),
    /^wrong: writer cannot create tables in not found: Schema not found/,
  ],
])("%s is said, and no password is", async (_, spoil, words) => {
  const said = await found(spoil(config));
  expect(said).toContainEqual(expect.stringMatching(words));
  expect(said.join("\n")).not.toMatch(/secret/);
});

test("each remedy puts right what it is said for", async () => {
  await other.sql("CREATE SCHEMA strange");
  const wanted = { ...config, outputSchema: "strange", scratchSchema: "fresh" };
  for (let round = 0; round < 4; round += 1) {
    const wrong = (await tryRoles(wanted)).filter(({ state }) => state === "wrong");
    if (wrong.length === 0) break;
    for (const { remedy } of wrong) await other.sql(remedy!);
  }
  expect((await found(wanted)).filter((line) => line.startsWith("wrong"))).toEqual([]);
});

test("a good warehouse is connected with its logins encrypted; one that is not changes nothing", async () => {
  const { store } = bench.context;
  const before = await warehouseMark(store.db);
  const bad = { ...config, reader: { ...config.reader, password: "no" } };
  expect(await connectWarehouse(store, bad, key)).toMatchObject({ connected: false });
  expect(await warehouseMark(store.db)).toBe(before);
  expect(await connectWarehouse(store, config, key)).toMatchObject({ connected: true });
  expect(await warehouseMark(store.db)).not.toBe(before);
  expect(await readWarehouse(store.db, key)).toEqual(config);
  const { rows } = await store.pool.query("SELECT * FROM warehouses");
  expect(JSON.stringify(rows)).not.toMatch(/secret|try_reader/);
});

test("no warehouse is connected under runs that are running, nor in the demo", async () => {
  const { store } = bench.context;
  await bench.sql(labTable({ rows: 100 }));
  await bench.save(labFile());
  await store.pool.query(
    "INSERT INTO runs (kind, pipeline_id, pipeline_version_id, cause, run_time) SELECT 'train', pipeline_id, id, 'hand', now() FROM pipeline_versions",
  );
  expect(await connectWarehouse(store, config, key)).toMatchObject({ problem: { code: "warehouse_in_use" } });
  await store.pool.query("UPDATE runs SET state = 'cancelled'");
  expect(await connectWarehouse(store, config, key)).toMatchObject({ connected: true });
  await setDemoState(store.db, { scale: 1, until: new Date(), wish: null });
  expect(await connectWarehouse(store, config, key)).toMatchObject({ problem: { code: "demo_warehouse" } });
});
