import { and, count, desc, eq, getTableColumns, inArray, sql, type SQL } from "drizzle-orm";
import { containsWords } from "./contains";
import type { Database } from "./database";
import type { RunRow } from "./runs";
import { pipelines, runs } from "./schema";

export const RUN_FILTERS = ["done", "failed", "cancelled", "under_way", "train", "score"] as const;
export type RunFilter = (typeof RUN_FILTERS)[number];

const RUN_CONDITIONS: Readonly<Record<RunFilter, SQL>> = {
  done: eq(runs.state, "done"),
  failed: eq(runs.state, "failed"),
  cancelled: eq(runs.state, "cancelled"),
  under_way: inArray(runs.state, ["queued", "running"]),
  train: eq(runs.kind, "train"),
  score: eq(runs.kind, "score"),
};

/** Runs, newest first: those of a page, and how many there are. Words are looked for in the pipeline's name, the outcome and what went wrong. */
export async function runPage(
  db: Database,
  wanted: {
    readonly words: string;
    readonly filter: RunFilter | undefined;
    readonly offset: number;
    readonly limit: number;
  },
): Promise<{ readonly entries: readonly RunRow[]; readonly all: number }> {
  const condition = and(
    wanted.filter && RUN_CONDITIONS[wanted.filter],
    containsWords(wanted.words, [pipelines.name, runs.kind, runs.outcome, sql`${runs.problems}::text`]),
  );
  const [entries, [counted]] = await Promise.all([
    db
      .select(getTableColumns(runs))
      .from(runs)
      .innerJoin(pipelines, eq(pipelines.id, runs.pipelineId))
      .where(condition)
      .orderBy(desc(runs.createdAt))
      .limit(wanted.limit)
      .offset(wanted.offset),
    db
      .select({ all: count() })
      .from(runs)
      .innerJoin(pipelines, eq(pipelines.id, runs.pipelineId))
      .where(condition),
  ]);
  return { entries, all: counted?.all ?? 0 };
}
