import path from "node:path";
import { drizzle, type NodePgDatabase } from "drizzle-orm/node-postgres";
import { migrate } from "drizzle-orm/node-postgres/migrator";
import pg from "pg";
import * as schema from "./schema";

export type Database = NodePgDatabase<typeof schema>;

export interface Store {
  readonly db: Database;
  readonly pool: pg.Pool;
}

/** Opens the application's own database. `url` is a PostgreSQL connection string. */
export function openStore(url: string): Store {
  const pool = new pg.Pool({ connectionString: url, max: 8, application_name: "ravlen" });
  pool.on("error", () => undefined);
  return { db: drizzle(pool, { schema }), pool };
}

/** Brings the tables up to date. Run once at start, before anything else uses the database. */
export async function migrateStore(store: Store, root: string): Promise<void> {
  await migrate(store.db, { migrationsFolder: path.join(root, "src/store/migrations") });
}

/** Channel on which changes of runs are announced; the payload is the run's id. */
export const RUN_CHANNEL = "ravlen_run";

export async function announceRun(store: Store, runId: string): Promise<void> {
  await store.pool.query("SELECT pg_notify($1, $2)", [RUN_CHANNEL, runId]);
}
