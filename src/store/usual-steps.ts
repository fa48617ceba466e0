import { sql } from "drizzle-orm";
import type { Database } from "./database";
import { runs, runSteps } from "./schema";
import type { RunRow } from "./runs";

/** Runs that a run is held against. */
const LAST_RUNS = 30;

/** How a step usually goes: medians over the last runs of the same kind that were done. */
export interface UsualStep {
  readonly name: string;
  readonly runs: number;
  /** How often it occurs in a run, in the mean. */
  readonly times: number;
  readonly milliseconds: number;
  /** Nine in ten took no longer. */
  readonly slow: number;
  readonly rows: number | null;
}

/** How each step went in the last {@link LAST_RUNS} runs of the same pipeline, kind and delivery before this one. */
export async function usualSteps(
  db: Database,
  run: Pick<RunRow, "id" | "pipelineId" | "kind" | "options" | "createdAt">,
): Promise<readonly UsualStep[]> {
  const took = sql`extract(epoch FROM ${runSteps.finishedAt} - ${runSteps.startedAt}) * 1000`;
  const earlier = sql`SELECT id FROM ${runs} WHERE pipeline_id = ${run.pipelineId} AND kind = ${run.kind} AND state = 'done' AND id <> ${run.id} AND created_at <= ${run.createdAt.toISOString()}::timestamptz
    AND options ->> 'delivery' IS NOT DISTINCT FROM ${run.options.delivery ?? null}::text AND options ->> 'candidate' IS NOT DISTINCT FROM ${run.options.candidate ?? null}::text ORDER BY created_at DESC LIMIT ${LAST_RUNS}`;
  const { rows } = await db.execute<{
    name: string;
    runs: number;
    times: number;
    usual: number;
    slow: number;
    rows: number | null;
  }>(sql`
    SELECT name, count(DISTINCT run_id)::integer AS runs, count(*)::float8 / (SELECT count(*) FROM (${earlier}) AS earlier) AS times, percentile_cont(0.5) WITHIN GROUP (ORDER BY ${took})::float8 AS usual, percentile_cont(0.9) WITHIN GROUP (ORDER BY ${took})::float8 AS slow, percentile_cont(0.5) WITHIN GROUP (ORDER BY rows) AS rows
    FROM ${runSteps} WHERE state = 'done' AND run_id IN (${earlier}) GROUP BY name`);
  return rows.map((row) => ({
    name: row.name,
    runs: row.runs,
    times: row.times,
    milliseconds: Number(row.usual),
    slow: Number(row.slow),
    rows: row.rows === null ? null : Math.round(Number(row.rows)),
  }));
}
