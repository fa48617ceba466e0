import { cast, column, isNull, NULL } from "@/core/expression/ast";
import { formatNumber } from "@/core/format/numbers";
import { blankModel } from "@/core/learn/base-rate/base-rate";
import { outputsOf } from "@/core/learn/task";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { taskOf } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import { inputRelation, REASONS_COLUMN, scoreRelation } from "@/core/plan/score";
import { problem, ProblemError } from "@/core/problem";
import { rowCountQuestion } from "@/core/questions/row-count";
import { filter, type TableReference } from "@/core/relation/relation";
import type { ModelRow } from "@/store/models";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { RunRecorder } from "./recorder";

/** What it takes to judge where predictions go. */
interface TargetWork {
  readonly recorder: RunRecorder;
  readonly session: WarehouseSession;
  readonly plan: CheckedPlan;
  /** A scratch table of this run, for a moment. */
  readonly scratch: TableReference;
}

/** Columns that every row of predictions brings beside key, prediction and what is passed through. */
const STAMPS: readonly (readonly [name: string, type: "integer" | "uuid" | "timestamptz"])[] = [
  ["model_version", "integer"],
  ["run_id", "uuid"],
  ["run_time", "timestamptz"],
  ["scored_at", "timestamptz"],
];

/** Judges the tables that predictions go into, as far as they are there, before anything is scored. */
export async function judgeTargets(
  work: TargetWork,
  model: ModelRow,
  delivery: Delivery,
  tables: readonly TableReference[],
): Promise<void> {
  const { recorder, session } = work;
  await recorder.doing("check the prediction tables", async () => {
    const there = await session.landing.tablesThere(tables);
    if (there.length > 0) {
      const columns = await comingColumns(work, model, delivery);
      const { key } = work.plan.file.roles;
      for (const table of there) await session.landing.judge(table, columns, { ...delivery, key });
    }
    await checkPartition(work, model, delivery);
    const made = tables.length - there.length;
    return { value: undefined, detail: made > 0 ? `${formatNumber(made)} will be created` : "they match" };
  });
}

/** Columns that the rows will have, with the types that the warehouse gives them; no row is scored for it. */
async function comingColumns(
  { session, plan, scratch }: TargetWork,
  model: ModelRow,
  { threshold, columns, reasons }: Delivery,
) {
  const relation = scoreRelation(plan, {
    learned: model.learned,
    shape: model.shape,
    model: blankModel(outputsOf(taskOf(plan, model.shape))),
    threshold,
    columns,
    stamps: STAMPS.map(([name, type]) => ({ name, expression: cast(NULL, type) })),
  });
  const found = await session.landing.columnsOf(relation, scratch);
  return reasons > 0 ? [...found, { name: REASONS_COLUMN, type: "jsonb" }] : found;
}

/** Rows that are replaced by their partition need a value there. */
async function checkPartition(
  { session, plan }: TargetWork,
  model: ModelRow,
  { mode, partition }: Delivery,
): Promise<void> {
  if (mode !== "partition" || partition === undefined) return;
  if (plan.main.output.get(partition)?.nullable === false) return;
  const rows = inputRelation(plan, model.learned, blankModel(1), [partition]);
  const missing = await session.ask(
    rowCountQuestion(filter(rows, isNull(column(partition))), "rows without a partition"),
  );
  if (missing === 0) return;
  throw new ProblemError(
    problem(
      "partition_missing",
      `${formatNumber(missing)} rows to score have no value in "${partition}", the partition column.`,
      "Fill it or filter those rows in a step, and retrain; or choose another partition column. Nothing was written.",
    ),
  );
}
