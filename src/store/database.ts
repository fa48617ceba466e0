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

/** Keeps these turns apart from other uses of advisory locks; the number means nothing. */
const PUBLICATION_LOCK = 1217;

/**
 * Publishes for a pipeline while nobody else does, in any process. A process that dies gives its turn back. The turn has a connection of
 * its own: those who wait must not keep the one who works from getting any.
 * @param wait whether to wait for the others; without it undefined when it is somebody else's turn
 */
export async function takeTurn<T>(
  { pool }: Store,
  pipelineId: number,
  wait: boolean,
  work: () => Promise<T>,
): Promise<T | undefined> {
  const client = new pg.Client(pool.options);
  await client.connect();
  try {
    const turn = [PUBLICATION_LOCK, pipelineId];
    if (wait) await client.query("SELECT pg_advisory_lock($1, $2)", turn);
    else {
      const asked = "SELECT pg_try_advisory_lock($1, $2) AS taken";
      const { rows } = await client.query<{ taken: boolean }>(asked, turn);
      if (!rows[0]?.taken) return undefined;
    }
    return await work();
  } finally {
    await client.end();
  }
}
