import { randomBytes } from "node:crypto";
import type pg from "pg";
import { formatCount } from "@/core/format/numbers";
import { quoteIdentifier, quoteTable } from "./dialect/quote";
import type { RoleCheck, WarehouseConfig, WarehouseLogin } from "../port/engine";
import { createPool } from "./connection";
import { rightsOfRole } from "./role-rights";

const PATIENCE_MILLISECONDS = 8000;

/** What went wrong when a role logged in, by the code of the driver or the server. */
const LOGIN_WORDS: Readonly<Record<string, (login: WarehouseLogin) => string>> = {
  ECONNREFUSED: ({ host, port }) => `Nothing is listening at ${host}:${port}.`,
  ENOTFOUND: ({ host }) => `Unknown host: ${host}.`,
  ETIMEDOUT: ({ host, port }) => `${host}:${port} does not respond.`,
  "28P01": ({ user }) => `The password is wrong, or there is no role "${user}".`,
  "28000": ({ user }) => `The server does not allow "${user}" to connect from here.`,
  "3D000": ({ database }) => `There is no database "${database}".`,
  "42501": ({ user, database }) => `"${user}" may not connect to "${database}".`,
};

function loginTrouble(error: unknown, login: WarehouseLogin): string {
  const code = String((error as { readonly code?: unknown }).code ?? "");
  const known = LOGIN_WORDS[code]?.(login);
  return known ?? (error instanceof Error ? error.message : String(error));
}

/** Logs a role in and asks with it; a login that fails is one check that is wrong. */
async function withRole(
  role: RoleCheck["role"],
  login: WarehouseLogin,
  ask: (client: pg.PoolClient) => Promise<readonly RoleCheck[]>,
): Promise<readonly RoleCheck[]> {
  const pool = createPool(login, 1, "connection test", PATIENCE_MILLISECONDS);
  try {
    const client = await pool.connect();
    try {
      return [{ role, what: "logs in", state: "good" }, ...(await ask(client))];
    } finally {
      client.release();
    }
  } catch (error) {
    return [{ role, what: "cannot log in", state: "wrong", detail: loginTrouble(error, login) }];
  } finally {
    await pool.end();
  }
}

/** A superuser is refused; what else a role may do that it need not is said. */
async function checkRights(
  client: pg.PoolClient,
  role: RoleCheck["role"],
  own: readonly string[],
): Promise<RoleCheck> {
  const { superuser, tooMuch } = await rightsOfRole(client, own);
  const what = "has more privileges than needed";
  if (superuser)
    return {
      role,
      what,
      state: "wrong",
      detail: "It is a superuser. Use another role.",
    };
  return tooMuch.length === 0
    ? { role, what: "has no excess privileges", state: "good" }
    : { role, what, state: "warning", detail: `It can also ${tooMuch.join("; ")}.` };
}

async function checkReading(client: pg.PoolClient, own: readonly string[]): Promise<readonly RoleCheck[]> {
  const { rows: made } = await client.query<{ name: string }>(
    "SELECT nspname AS name FROM pg_namespace WHERE nspname !~ '^pg_' AND has_schema_privilege(oid, 'CREATE') LIMIT 1",
  );
  const { rows: read } = await client.query<{ tables: number }>(
    `SELECT count(*)::int AS tables FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
     WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname !~ '^pg_' AND n.nspname <> 'information_schema' AND NOT n.nspname = ANY ($1)
       AND has_schema_privilege(n.oid, 'USAGE') AND has_table_privilege(c.oid, 'SELECT')`,
    [own],
  );
  const tables = read[0]?.tables ?? 0;
  const writes = made[0]?.name;
  return [
    writes === undefined
      ? { role: "reader", what: "cannot create tables", state: "good" }
      : {
          role: "reader",
          what: "can create tables",
          state: "wrong",
          detail: `It can create tables in "${writes}". Use a read-only role.`,
        },
    tables > 0
      ? { role: "reader", what: "can read tables", state: "good", detail: formatCount(tables, "table") }
      : {
          role: "reader",
          what: "cannot read any table",
          state: "warning",
          detail: "Run the grants for the schemas to read.",
        },
  ];
}

async function checkOwnSchema(client: pg.PoolClient, schema: string, writer: string): Promise<RoleCheck> {
  const { rows } = await client.query<{ may: boolean | null }>(
    "SELECT has_schema_privilege(oid, 'CREATE') AS may FROM pg_namespace WHERE nspname = $1",
    [schema],
  );
  const what = `cannot create tables in ${schema}`;
  const names = [quoteIdentifier(schema), quoteIdentifier(writer)];
  if (rows[0] === undefined)
    return {
      role: "writer",
      what,
      state: "wrong",
      detail: "Schema not found.",
      remedy: `CREATE SCHEMA ${names[0]!} AUTHORIZATION ${names[1]!}`,
    };
  return rows[0].may === true
    ? { role: "writer", what: `can create tables in ${schema}`, state: "good" }
    : {
        role: "writer",
        what,
        state: "wrong",
        detail: "It cannot create tables there.",
        remedy: `ALTER SCHEMA ${names[0]!} OWNER TO ${names[1]!}`,
      };
}

/** Whether the reader sees what the writer makes: a table is made, read and dropped. */
async function checkHandingOver(config: WarehouseConfig, schema: string): Promise<RoleCheck> {
  const { reader, writer } = config;
  const table = quoteTable({ schema, table: `ravlen_try_${randomBytes(4).toString("hex")}` });
  const [own, their] = [quoteIdentifier(schema), [writer.user, reader.user].map(quoteIdentifier)];
  const made = await withRole("writer", writer, async (client) => {
    await client.query(`CREATE TABLE ${table} AS SELECT 1 AS one`);
    return [];
  });
  const seen = await withRole("reader", reader, async (client) => {
    await client.query(`SELECT * FROM ${table}`);
    return [];
  });
  await withRole("writer", writer, async (client) => {
    await client.query(`DROP TABLE IF EXISTS ${table}`);
    return [];
  });
  if ([...made, ...seen].every(({ state }) => state === "good"))
    return { role: "reader", what: `can read tables of the writer in ${schema}`, state: "good" };
  return {
    role: "reader",
    what: `cannot read tables of the writer in ${schema}`,
    state: "wrong",
    detail: "It cannot read a table that the writer just created there.",
    remedy: `GRANT USAGE ON SCHEMA ${own} TO ${their[1]!}; ALTER DEFAULT PRIVILEGES FOR ROLE ${their[0]!} IN SCHEMA ${own} GRANT SELECT ON TABLES TO ${their[1]!}`,
  };
}

/**
 * Tries both roles of a warehouse: whether they get in, may do what they need, and no more. What is wrong
 * comes with what puts it right.
 */
export async function tryRoles(config: WarehouseConfig): Promise<readonly RoleCheck[]> {
  const own = [config.outputSchema, config.scratchSchema, config.importSchema];
  const [reader, writer] = await Promise.all([
    withRole("reader", config.reader, async (client) => [
      await checkRights(client, "reader", []),
      ...(await checkReading(client, own)),
    ]),
    withRole("writer", config.writer, async (client) => {
      const checks = [await checkRights(client, "writer", own)];
      for (const schema of own) checks.push(await checkOwnSchema(client, schema, config.writer.user));
      return checks;
    }),
  ]);
  const tried = [...reader, ...writer];
  if (tried.some(({ state }) => state === "wrong")) return tried;
  const handed: RoleCheck[] = [];
  for (const schema of own) handed.push(await checkHandingOver(config, schema));
  return [...tried, ...handed];
}
