import { parseTableName } from "@/core/pipeline/table-name";
import { workloadOf, type Workload } from "@/core/plan/workload";
import type { CheckedPlan } from "@/core/plan/plan";
import { table, type TableReference } from "@/core/relation/relation";
import { writeTableName } from "@/core/pipeline/table-name";
import { versionById } from "@/store/pipelines";
import { recordWorkload } from "@/store/workers";
import type { RunRow } from "@/store/runs";
import { checkText } from "../check-file";
import type { Context } from "../context";

/**
 * How much a run has to do, estimated once before it begins and kept with it.
 * @returns undefined where that cannot be told: the run itself will say what is wrong
 */
export async function sizeUp(context: Context, run: RunRow): Promise<Workload | undefined> {
  if (run.workload) return run.workload;
  try {
    const workload = await estimate(context, run);
    if (workload) await recordWorkload(context.store.db, run.id, workload);
    return workload;
  } catch {
    return undefined;
  }
}

async function estimate(context: Context, run: RunRow): Promise<Workload | undefined> {
  const version = await versionById(context.store.db, run.pipelineVersionId);
  const checked = version && (await checkText(version.text, context.warehouse));
  if (!checked?.ok) return undefined;
  const plan = checked.value;
  const { onDemand, candidate, share } = run.options;
  const standIn = onDemand && parseTableName(onDemand.table);
  const rows = await estimatesOf(context, plan, standIn);
  const wanted =
    plan.file.candidates.find((oneCandidate) => oneCandidate.name === candidate) ?? plan.file.candidates[0];
  return workloadOf(
    { kind: run.kind, plan, rowsOf: (table) => rows.get(writeTableName(table)) ?? 0 },
    { candidate: wanted, share },
  );
}

/** Estimated rows of the tables that a plan reads, by name. Another table may stand in for the one it begins with. */
async function estimatesOf(
  context: Context,
  plan: CheckedPlan,
  standIn: TableReference | undefined,
): Promise<ReadonlyMap<string, number>> {
  const found = new Map<string, number>();
  const estimate = async (source: TableReference): Promise<number> =>
    (await context.warehouse.estimate(table(source, []))) ?? 0;
  for (const source of plan.sources) found.set(writeTableName(source), await estimate(source));
  const { from } = plan.main;
  if (standIn && from.kind === "table") found.set(writeTableName(from.source), await estimate(standIn));
  return found;
}
