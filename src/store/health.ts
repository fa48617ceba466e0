import { sql } from "drizzle-orm";
import type { Database } from "./database";
import { alerts, pipelines, runs, workers } from "./schema";

export interface StoreHealth {
  /** Workers, by their own word, with the seconds since. */
  readonly workers: readonly {
    readonly name: string;
    readonly silentSeconds: number;
    readonly upSeconds: number;
    readonly takesLarge: boolean;
    /** What it tried to do regularly and could not. */
    readonly trouble: string | null;
  }[];
  readonly runs: readonly {
    readonly pipeline: string;
    readonly kind: string;
    readonly state: string;
    readonly count: number;
  }[];
  /** Seconds that the oldest waiting run has waited; 0 when none waits. */
  readonly oldestWaiting: number;
  readonly alerts: readonly { readonly kind: string; readonly count: number }[];
  /** Bytes of the application's own database. */
  readonly bytes: number;
}

/** Workers silent for longer are left out: they ended long ago. */
const FORGOTTEN_SECONDS = 3600;

/** What the application's own database says of how things are. */
export async function storeHealth(db: Database): Promise<StoreHealth> {
  const [working, byState, waiting, open, size] = await Promise.all([
    db
      .select({
        name: workers.name,
        silentSeconds: sql<number>`extract(epoch FROM now() - ${workers.seenAt})::double precision`,
        takesLarge: workers.takesLarge,
        trouble: workers.trouble,
        upSeconds: sql<number>`extract(epoch FROM ${workers.seenAt} - ${workers.startedAt})::double precision`,
      })
      .from(workers)
      .where(sql`${workers.seenAt} > now() - make_interval(secs => ${FORGOTTEN_SECONDS})`)
      .orderBy(workers.name),
    db
      .select({
        pipeline: pipelines.name,
        kind: runs.kind,
        state: runs.state,
        count: sql<number>`count(*)::integer`,
      })
      .from(runs)
      .innerJoin(pipelines, sql`${pipelines.id} = ${runs.pipelineId}`)
      .groupBy(pipelines.name, runs.kind, runs.state)
      .orderBy(pipelines.name, runs.kind, runs.state),
    db
      .select({
        seconds: sql<number>`coalesce(max(extract(epoch FROM now() - ${runs.createdAt})), 0)::double precision`,
      })
      .from(runs)
      .where(sql`${runs.state} = 'queued' AND (${runs.notBefore} IS NULL OR ${runs.notBefore} <= now())`),
    db
      .select({ kind: alerts.kind, count: sql<number>`count(*)::integer` })
      .from(alerts)
      .where(sql`${alerts.clearedAt} IS NULL`)
      .groupBy(alerts.kind),
    db.execute<{ bytes: string }>(sql`SELECT pg_database_size(current_database()) AS bytes`),
  ]);
  return {
    workers: working,
    runs: byState,
    oldestWaiting: waiting[0]?.seconds ?? 0,
    alerts: open,
    bytes: Number(size.rows[0]?.bytes ?? 0),
  };
}
