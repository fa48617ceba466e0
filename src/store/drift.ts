import { and, asc, desc, eq, gte, inArray, sql } from "drizzle-orm";
import type { Database } from "./database";
import { runDrift } from "./schema";

export type DriftRow = typeof runDrift.$inferSelect;

/** Keeps what a run found; a retry finds the same and changes nothing. */
export async function addDrift(db: Database, drift: typeof runDrift.$inferInsert): Promise<void> {
  await db.insert(runDrift).values(drift).onConflictDoNothing();
}

/** The newest of a pipeline's measurements, oldest first. */
export async function driftOfPipeline(
  db: Database,
  pipelineId: number,
  most: number,
): Promise<readonly DriftRow[]> {
  return (
    await db
      .select()
      .from(runDrift)
      .where(eq(runDrift.pipelineId, pipelineId))
      .orderBy(desc(runDrift.runTime), desc(runDrift.runId))
      .limit(most)
  ).reverse();
}

/** How far the columns of a run had drifted. */
export interface PastDrift {
  readonly runTime: Date;
  /** The population stability index by column. */
  readonly psi: Readonly<Record<string, number>>;
}

/** The indexes of a pipeline's newest measurements, oldest first. */
export async function pastDrift(
  db: Database,
  pipelineId: number,
  most: number,
): Promise<readonly PastDrift[]> {
  const { columns, runTime, runId } = runDrift;
  const psi = sql<
    PastDrift["psi"]
  >`(SELECT coalesce(jsonb_object_agg(drift ->> 'column', drift -> 'psi'), '{}') FROM jsonb_array_elements(${columns}) AS drift)`;
  const found = await db
    .select({ runTime, psi })
    .from(runDrift)
    .where(eq(runDrift.pipelineId, pipelineId))
    .orderBy(desc(runTime), desc(runId))
    .limit(most);
  return found.reverse();
}

/** The column of a run that drifted most, and how far. */
export interface LargestDrift {
  readonly pipelineId: number;
  readonly runTime: Date;
  readonly psi: number;
}

/** The largest drift of each scoring run of some pipelines from a logical time on, oldest first. */
export async function largestDrift(
  db: Database,
  pipelineIds: readonly number[],
  from: Date,
): Promise<readonly LargestDrift[]> {
  if (pipelineIds.length === 0) return [];
  const psi = sql<
    number | null
  >`(SELECT max((c ->> 'psi')::float8) FROM jsonb_array_elements(${runDrift.columns}) c)`;
  const found = await db
    .select({ pipelineId: runDrift.pipelineId, runTime: runDrift.runTime, psi })
    .from(runDrift)
    .where(and(inArray(runDrift.pipelineId, [...pipelineIds]), gte(runDrift.runTime, from)))
    .orderBy(asc(runDrift.runTime));
  return found.flatMap(({ psi: largest, ...run }) => (largest === null ? [] : [{ ...run, psi: largest }]));
}
