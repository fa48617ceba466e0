import { readFileSync } from "node:fs";
import path from "node:path";
import pg from "pg";

/** Does something to the warehouse that somebody else might do, and gives the rows it answers with. */
export async function somebody(sql: string): Promise<readonly Record<string, unknown>[]> {
  const home = process.env["RAVLEN_HOME"]!;
  const { databasePort } = JSON.parse(readFileSync(path.join(home, "instance.json"), "utf8")) as {
    databasePort: number;
  };
  const client = new pg.Client({
    host: "127.0.0.1",
    port: databasePort,
    user: "ravlen_admin",
    password: readFileSync(path.join(home, "superuser-password"), "utf8").trim(),
    database: "ravlen_warehouse",
  });
  await client.connect();
  try {
    return (await client.query<Record<string, unknown>>(sql)).rows;
  } finally {
    await client.end();
  }
}
