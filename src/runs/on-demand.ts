import type PgBoss from "pg-boss";
import { findTable } from "@/core/plan/catalog";
import { onDemandPipeline, type OnDemand } from "@/core/plan/on-demand";
import { parseTableName, writeTableName } from "@/core/pipeline/table-name";
import { parsePipeline } from "@/core/pipeline/parse";
import type { PipelineFile } from "@/core/pipeline/schema";
import { failure, problem, ProblemError, success, unwrap, type Result } from "@/core/problem";
import { announceRun } from "@/store/database";
import { modelById, type ModelRow } from "@/store/models";
import { findPipeline, versionById } from "@/store/pipelines";
import { addRun, type RunRow } from "@/store/runs";
import type { RunCause } from "@/store/schema";
import { readCatalog } from "@/warehouse/catalog";
import type { Context } from "./context";
import { sendRun } from "./queue";
import { planOfVersion } from "./version-plan";

export interface OnDemandOrder {
  readonly pipeline: string;
  /** A table with the columns that the main strand's source has, as far as the steps read them. */
  readonly table: string;
  /** A new table in the schema of predictions; named by the pipeline and the moment when left out. */
  readonly into?: string;
  readonly columns?: readonly string[];
  /** The version that scores; the one in service when left out. */
  readonly modelId?: number;
  readonly cause: RunCause;
}

/** Columns of the main strand's own source that the steps read, and that other rows do not have. */
function columnsLacking(
  file: PipelineFile,
  model: Pick<ModelRow, "data">,
  there: readonly string[],
): readonly string[] {
  const from = file.strands.find((each) => each.name === file.rows.from)?.from;
  const source = typeof from === "string" ? parseTableName(from) : from && "table" in from ? from : undefined;
  const read =
    model.data.sources.find((each) => each.schema === source?.schema && each.table === source.table)
      ?.columns ?? [];
  return read.map((each) => each.name).filter((name) => !there.includes(name));
}

/**
 * Orders the scoring of a table chosen now. What does not fit is said before anything runs.
 * Problems: unknown_pipeline, nothing_in_service, unknown_table, table_exists, delivery_schema, and those of the pipeline over that table.
 */
export async function orderOnDemand(
  context: Context,
  boss: PgBoss,
  order: OnDemandOrder,
): Promise<Result<RunRow>> {
  const {
    store: { db },
    warehouse,
  } = context;
  const pipeline = await findPipeline(db, order.pipeline);
  if (!pipeline) return failure(problem("unknown_pipeline", `There is no pipeline "${order.pipeline}".`));
  const wanted = order.modelId ?? pipeline.inService;
  const model = wanted === null ? undefined : await modelById(db, wanted);
  if (!model || model.pipelineId !== pipeline.id)
    return failure(
      problem(
        "nothing_in_service",
        `No model version of "${pipeline.name}" is in service, so there is nothing to score with.`,
        "Train, look at the result, and put the version in service.",
      ),
    );
  const runTime = await context.now();
  const { outputSchema } = warehouse.config;
  const into =
    order.into ||
    `${outputSchema}.scored_${pipeline.name
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, "_")
      .slice(0, 30)}_${runTime
      .toISOString()
      .slice(0, 19)
      .replaceAll(/[^0-9]/g, "")}`;
  const target = parseTableName(into);
  if (target?.schema !== outputSchema)
    return failure(
      problem(
        "delivery_schema",
        `Predictions can only be written into the schema "${outputSchema}"; this says "${into}".`,
        `Write ${outputSchema}.NAME.`,
      ),
    );
  const catalog = await readCatalog(warehouse);
  if (findTable(catalog, target))
    return failure(
      problem(
        "table_exists",
        `The table ${writeTableName(target)} exists already.`,
        "Choose another name; rows on demand get a table of their own.",
      ),
    );
  const given = findTable(catalog, parseTableName(order.table) ?? { schema: "", table: order.table });
  if (!given)
    return failure(problem("unknown_table", `There is no table "${order.table}".`, "Write schema.table."));
  const version = await versionById(db, model.pipelineVersionId);
  const lacking = version
    ? columnsLacking(
        unwrap(parsePipeline(version.text)).file,
        model,
        given.columns.map((each) => each.name),
      )
    : [];
  if (lacking.length > 0)
    return failure(
      problem(
        "columns_lacking",
        `${order.table} lacks ${lacking.map((each) => `"${each}"`).join(", ")}, which the steps read.`,
        "Choose a table with the columns of the pipeline's own source.",
      ),
    );
  const onDemand: OnDemand = {
    table: order.table,
    into: writeTableName(target),
    columns: order.columns ?? [],
  };
  try {
    await planOfVersion(context, model, undefined, (parsed) => onDemandPipeline(parsed, onDemand));
  } catch (error) {
    if (error instanceof ProblemError) return failure(...error.problems);
    throw error;
  }
  const run = await addRun(db, {
    kind: "score",
    pipelineId: pipeline.id,
    pipelineVersionId: model.pipelineVersionId,
    cause: order.cause,
    runTime,
    options: { model: model.id, onDemand },
  });
  if (!run) throw new Error("a run without a slot cannot clash");
  await sendRun(boss, run.id);
  await announceRun(context.store, run.id);
  return success(run);
}
