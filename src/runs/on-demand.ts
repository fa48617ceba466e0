import type PgBoss from "pg-boss";
import { findTable } from "@/core/plan/catalog";
import type { OnDemand, OnDemandContract } from "@/core/plan/on-demand";
import { parseTableName, writeTableName } from "@/core/pipeline/table-name";
import { failure, problem, ProblemError, success, type Result } from "@/core/problem";
import { announceRun } from "@/store/database";
import { modelById, type ModelRow } from "@/store/models";
import { findPipeline, type PipelineRow } from "@/store/pipelines";
import { orderOnce } from "@/store/orders";
import { type RunRow } from "@/store/runs";
import type { RunCause } from "@/store/schema";
import type { Context } from "./context";
import { sendRun } from "./queue";
import { fillOnDemand, openOnDemand } from "./on-demand-plan";

export interface OnDemandOrder {
  readonly pipeline: string;
  /** A table with the columns that the main strand's source has, as far as the steps read them. */
  readonly table: string;
  /** A new table in the schema of predictions; named by the pipeline and the moment when left out. */
  readonly into?: string;
  readonly columns?: readonly string[];
  /** What happens when training saw no value of a column; stops when left out. */
  readonly allUnseen?: "stop" | "warn";
  /** The version that scores; the one in service when left out. */
  readonly modelId?: number;
  readonly cause: RunCause;
}

/** The version that scores rows on demand. Problems: unknown_pipeline, nothing_in_service. */
async function versionFor(
  { store: { db } }: Context,
  order: Pick<OnDemandOrder, "pipeline" | "modelId">,
): Promise<Result<{ readonly pipeline: PipelineRow; readonly model: ModelRow }>> {
  const pipeline = await findPipeline(db, order.pipeline);
  if (!pipeline) return failure(problem("unknown_pipeline", `There is no pipeline "${order.pipeline}".`));
  const wanted = order.modelId ?? pipeline.inService;
  const model = wanted === null ? undefined : await modelById(db, wanted);
  return model?.pipelineId === pipeline.id
    ? success({ pipeline, model })
    : failure(
        problem(
          "nothing_in_service",
          `No model version of "${pipeline.name}" is in service, so scoring is not possible.`,
          "Train, check the metrics, and put the version in service.",
        ),
      );
}

/**
 * What rows have to have that a pipeline is to score on demand.
 * Problems: unknown_pipeline, nothing_in_service, and those of the pipeline.
 */
export async function contractOnDemand(
  context: Context,
  order: Pick<OnDemandOrder, "pipeline" | "modelId" | "columns">,
): Promise<Result<OnDemandContract>> {
  const found = await versionFor(context, order);
  if (!found.ok) return found;
  const into = `${context.warehouse.config.outputSchema}.on_demand`;
  const rows: OnDemand = { table: "", into, columns: order.columns ?? [] };
  return attempt(async () => (await openOnDemand(context, found.value.model, rows)).contract);
}

/** Work whose problems are thrown, as a value. */
async function attempt<T>(work: () => Promise<T>): Promise<Result<T>> {
  try {
    return success(await work());
  } catch (error) {
    if (error instanceof ProblemError) return failure(...error.problems);
    throw error;
  }
}

/**
 * Orders the scoring of a table chosen now. What does not fit is said before anything runs.
 * Problems: unknown_pipeline, nothing_in_service, unknown_table, table_exists, delivery_schema, columns_lacking, columns_retyped, and
 * those of the pipeline.
 */
export async function orderOnDemand(
  context: Context,
  boss: PgBoss,
  order: OnDemandOrder,
): Promise<Result<RunRow>> {
  const { db } = context.store;
  const { warehouse } = context;
  const version = await versionFor(context, order);
  if (!version.ok) return version;
  const { pipeline, model } = version.value;
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
  const catalog = await warehouse.catalog.read();
  if (findTable(catalog, target))
    return failure(
      problem(
        "table_exists",
        `The table ${writeTableName(target)} already exists.`,
        "Choose another name; on-demand predictions need a new table.",
      ),
    );
  const given = findTable(catalog, parseTableName(order.table) ?? { schema: "", table: order.table });
  if (!given)
    return failure(problem("unknown_table", `There is no table "${order.table}".`, "Write schema.table."));
  const onDemand: OnDemand = {
    table: writeTableName(given),
    into: writeTableName(target),
    columns: order.columns ?? [],
    ...(order.allUnseen === undefined ? {} : { allUnseen: order.allUnseen }),
  };
  const opened = await attempt(() => openOnDemand(context, model, onDemand));
  if (!opened.ok) return opened;
  const filled = fillOnDemand(opened.value, given);
  if (!filled.ok) return filled;
  const { run } = await orderOnce(
    db,
    {
      kind: "score",
      pipelineId: pipeline.id,
      pipelineVersionId: model.pipelineVersionId,
      cause: order.cause,
      runTime,
      options: { model: model.id, onDemand },
    },
    false,
  );
  await sendRun(boss, run);
  await announceRun(context.store, run.id);
  return success(run);
}
