import { desc, eq, sql } from "drizzle-orm";
import { containsWords } from "./contains";
import type { Database } from "./database";
import { modelVersions, pipelines, runs } from "./schema";

/** Runs that are looked at, the newest. */
const RECENT_RUNS = 2000;
/** The beginning of a run's identity, long enough to mean it. */
const IDENTITY = /^[0-9a-f]{6}[0-9a-f-]*$/;

/** Versions of models whose pipeline, number or candidate contains every word, the newest first. */
export async function findVersions(db: Database, words: string, limit: number) {
  const { id, number, candidate } = modelVersions;
  return db
    .select({ id, number, candidate, pipeline: pipelines.name })
    .from(modelVersions)
    .innerJoin(pipelines, eq(pipelines.id, modelVersions.pipelineId))
    .where(containsWords(words, [pipelines.name, sql`concat('version ', ${number})`, candidate]))
    .orderBy(desc(modelVersions.createdAt))
    .limit(limit);
}

/**
 * Recent runs whose kind, pipeline and state contain every word, the newest first; any run by the
 * beginning of its identity.
 */
export async function findRuns(db: Database, words: string, limit: number) {
  const typed = words.trim().toLowerCase();
  const recent = db
    .select({ id: runs.id, kind: runs.kind, state: runs.state, at: runs.createdAt, of: runs.pipelineId })
    .from(runs)
    .where(IDENTITY.test(typed) ? sql`starts_with(${runs.id}::text, ${typed})` : undefined)
    .orderBy(desc(runs.createdAt))
    .limit(RECENT_RUNS)
    .as("recent");
  const kind = sql<string>`CASE ${recent.kind} WHEN 'train' THEN 'training' ELSE 'scoring' END`;
  return db
    .select({ id: recent.id, kind, state: recent.state, pipeline: pipelines.name })
    .from(recent)
    .innerJoin(pipelines, eq(pipelines.id, recent.of))
    .where(containsWords(words, [kind, pipelines.name, recent.state, sql`${recent.id}::text`]))
    .orderBy(desc(recent.at))
    .limit(limit);
}
