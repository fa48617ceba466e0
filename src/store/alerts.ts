import { and, desc, eq, gt, isNull, lte, or, sql } from "drizzle-orm";
import type { Problem } from "@/core/problem";
import type { Database } from "./database";
import { alerts, type AlertKind } from "./schema";

export type AlertRow = typeof alerts.$inferSelect;

export interface NewAlert {
  readonly matter: string;
  readonly kind: AlertKind;
  readonly pipelineId: number;
  readonly title: string;
  readonly problems: readonly Problem[];
  readonly runId?: string;
  /** The logical time for which it is so. */
  readonly runTime?: Date;
}

/** Opens an alert, or adds to the one that is open about the same matter: somebody hears of it once. An acknowledgement stays. */
export async function raiseAlert(db: Database, { runId, runTime, ...alert }: NewAlert): Promise<void> {
  const values = { ...alert, runId: runId ?? null, runTime: runTime ?? null };
  await db
    .insert(alerts)
    .values(values)
    .onConflictDoUpdate({
      target: alerts.matter,
      targetWhere: isNull(alerts.clearedAt),
      set: {
        kind: alert.kind,
        title: alert.title,
        problems: alert.problems,
        lastAt: sql`now()`,
        times: sql`${alerts.times} + 1`,
        ...(runId === undefined ? {} : { runId }),
        ...(runTime === undefined
          ? {}
          : { runTime: sql`greatest(${alerts.runTime}, ${runTime.toISOString()}::timestamptz)` }),
      },
    });
}

/**
 * Notes that a matter is over. Tells whether there was an open alert about it.
 * @param runTime the logical time for which it is over; what is open for a later one stays
 */
export async function clearAlert(
  db: Database,
  matter: string,
  clearedWith: string,
  runTime?: Date,
): Promise<boolean> {
  const over = runTime === undefined ? undefined : or(isNull(alerts.runTime), lte(alerts.runTime, runTime));
  return (
    (
      await db
        .update(alerts)
        .set({ clearedAt: sql`now()`, clearedWith })
        .where(and(eq(alerts.matter, matter), isNull(alerts.clearedAt), over))
        .returning({ id: alerts.id })
    ).length > 0
  );
}

/** Alerts that are open, newest first, and those that cleared within some hours. */
export async function listAlerts(db: Database, clearedWithinHours: number): Promise<readonly AlertRow[]> {
  return db
    .select()
    .from(alerts)
    .where(
      or(
        isNull(alerts.clearedAt),
        gt(alerts.clearedAt, sql`now() - make_interval(hours => ${clearedWithinHours})`),
      ),
    )
    .orderBy(desc(alerts.lastAt));
}

/** Notes that somebody has taken an open alert on. */
export async function acknowledgeAlert(db: Database, id: number, by: string): Promise<boolean> {
  return (
    (
      await db
        .update(alerts)
        .set({ acknowledgedAt: sql`now()`, acknowledgedBy: by })
        .where(and(eq(alerts.id, id), isNull(alerts.clearedAt), isNull(alerts.acknowledgedAt)))
        .returning({ id: alerts.id })
    ).length > 0
  );
}

/** Matters of a kind that are open. */
export async function openMatters(db: Database, kind: AlertKind): Promise<readonly string[]> {
  return (
    await db
      .select({ matter: alerts.matter })
      .from(alerts)
      .where(and(eq(alerts.kind, kind), isNull(alerts.clearedAt)))
  ).map((alert) => alert.matter);
}
