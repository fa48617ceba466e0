import type PgBoss from "pg-boss";
import { failure, problem, type Result } from "@/core/problem";
import { pipelineById } from "@/store/pipelines";
import { runById, type RunRow } from "@/store/runs";
import type { Context } from "./context";
import { whyEnded } from "./pipelines/taken";
import { orderRun } from "./queue";

/**
 * Orders the same run once more, for the same logical time, with the pipeline's newest version.
 * Problems: unknown_run, pipeline_deleted, and those of ordering it.
 */
export async function orderAgain(context: Context, boss: PgBoss, id: string): Promise<Result<RunRow>> {
  const { db } = context.store;
  const run = await runById(db, id);
  const pipeline = run && (await pipelineById(db, run.pipelineId));
  if (!run || !pipeline) return failure(problem("unknown_run", "Run not found."));
  const ended = whyEnded(pipeline);
  if (ended) return failure(ended);
  return orderRun(context, boss, {
    kind: run.kind,
    pipeline: pipeline.name,
    cause: "again",
    runTime: run.runTime,
    options: run.options,
  });
}
