import { randomBytes } from "node:crypto";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { engine } from "@/warehouse/engines";
import { quoteIdentifier, quoteText } from "@/warehouse/postgres/dialect/quote";
import type { WarehouseConfig } from "@/warehouse/port/engine";
import { asAdmin, type AdminLogin } from "./postgres";

/** Encrypts warehouse logins in the database; kept beside it, not in it. */
export function encryptionKey(home: string): string {
  const file = path.join(home, "key");
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString("hex"), { mode: 0o600 });
  return readFileSync(file, "utf8").trim();
}

async function ensureDatabase(admin: AdminLogin, name: string): Promise<void> {
  await asAdmin(admin, "postgres", async (client) => {
    const { rowCount } = await client.query("SELECT 1 FROM pg_database WHERE datname = $1", [name]);
    if (!rowCount)
      await client.query(
        `CREATE DATABASE ${quoteIdentifier(name)} ENCODING 'UTF8' LOCALE 'C.UTF-8' TEMPLATE template0`,
      );
  });
}

/** The application's own database and its owner; gives the connection string. */
export async function provisionStore(admin: AdminLogin, database: string): Promise<string> {
  await ensureDatabase(admin, database);
  const password = randomBytes(24).toString("hex");
  const role = `${database}_owner`;
  await asAdmin(admin, database, async (client) => {
    await client.query(
      `DO $$ BEGIN CREATE ROLE ${quoteIdentifier(role)} LOGIN; EXCEPTION WHEN duplicate_object THEN NULL; END $$`,
    );
    // A fresh password at each start: the old one is of no use to whoever read it.
    await client.query(`ALTER ROLE ${quoteIdentifier(role)} PASSWORD ${quoteText(password)}`);
    await client.query(`ALTER DATABASE ${quoteIdentifier(database)} OWNER TO ${quoteIdentifier(role)}`);
    await client.query(`GRANT ALL ON SCHEMA public TO ${quoteIdentifier(role)}`);
    await client.query(`REVOKE CONNECT ON DATABASE ${quoteIdentifier(database)} FROM PUBLIC`);
  });
  return `postgres://${role}:${password}@${admin.host}:${admin.port}/${database}`;
}

export interface WarehouseNames {
  readonly database: string;
  readonly outputSchema: string;
  readonly scratchSchema: string;
  readonly importSchema: string;
}

/**
 * A warehouse database with two roles: a reader who may read what its superuser and the writer make and write nothing, and a writer
 * who owns the output, scratch and import schemas and may otherwise only read.
 */
export async function provisionWarehouse(admin: AdminLogin, names: WarehouseNames): Promise<WarehouseConfig> {
  await ensureDatabase(admin, names.database);
  const login = (role: string, password: string) => ({
    host: admin.host,
    port: admin.port,
    database: names.database,
    user: role,
    password,
  });
  const reader = login(`${names.database}_reader`, randomBytes(24).toString("hex"));
  const writer = login(`${names.database}_writer`, randomBytes(24).toString("hex"));
  await asAdmin(admin, names.database, async (client) => {
    const own = [names.outputSchema, names.scratchSchema, names.importSchema];
    const { rows: schemas } = await client.query<{ name: string }>(
      "SELECT nspname AS name FROM pg_namespace WHERE nspname !~ '^pg_' AND nspname <> 'information_schema' AND NOT nspname = ANY ($1)",
      [own],
    );
    const statements = engine.grantStatements({
      database: names.database,
      reader: reader.user,
      writer: writer.user,
      own,
      read: schemas.map(({ name }) => name),
      owners: [],
    });
    for (const statement of statements) await client.query(statement);
    const both = [reader, writer].map(({ user }) => quoteIdentifier(user)).join(", ");
    // Whatever the superuser makes here from now on is there to be read.
    await client.query(`ALTER DEFAULT PRIVILEGES GRANT USAGE ON SCHEMAS TO ${both}`);
    await client.query(`ALTER DEFAULT PRIVILEGES GRANT SELECT ON TABLES TO ${both}`);
    await client.query("REVOKE CREATE ON SCHEMA public FROM PUBLIC");
    await client.query(
      `REVOKE CONNECT, TEMPORARY ON DATABASE ${quoteIdentifier(names.database)} FROM PUBLIC`,
    );
    for (const { user, password } of [reader, writer])
      await client.query(`ALTER ROLE ${quoteIdentifier(user)} PASSWORD ${quoteText(password)}`);
  });
  return {
    reader,
    writer,
    outputSchema: names.outputSchema,
    scratchSchema: names.scratchSchema,
    importSchema: names.importSchema,
  };
}
