import { PlanBuilder, type LearnedValues } from "@/core/plan/build";
import type { CheckedPlan } from "@/core/plan/plan";
import { problem, ProblemError } from "@/core/problem";
import type { Relation } from "@/core/relation/relation";
import type { WarehouseSession } from "@/warehouse/warehouse";
import type { RunRecorder } from "./recorder";

interface RequirementWork {
  readonly recorder: RunRecorder;
  readonly session: WarehouseSession;
  readonly plan: CheckedPlan;
  readonly print: (relation: Relation) => string;
}

/** Stops the run where a join would multiply rows, or a check does not hold; warns where the file says so. */
export async function checkRequirements(work: RequirementWork, learned: LearnedValues = {}, after = false): Promise<void> {
  const { plan, recorder, session } = work;
  const requirements = new PlanBuilder(plan).requirements(learned, after ? { from: plan.learnsFrom + 1, to: plan.main.steps.length } : undefined);
  if (requirements.length === 0) return;
  await recorder.doing(after ? "check the prepared rows" : "check joins and sources", async () => {
    for (const each of requirements) {
      const rows = await session.run(`SELECT * FROM (${work.print(each.rows)}) AS "found" LIMIT 5`, `must be empty for "${each.step}"`);
      if (rows.length === 0) continue;
      const examples = rows.map((row) => Object.values(row).map((value) => (value instanceof Date ? value.toISOString() : String(value ?? "missing"))).join(" / ")).join("; ");
      const found = problem(each.code, `${each.message}, for example ${examples}.`, each.hint, { step: each.step });
      if (each.otherwise !== "warn") throw new ProblemError(found);
      await recorder.warn([{ ...found, severity: "warning" }]);
    }
    return { value: undefined, detail: `${requirements.length} condition${requirements.length === 1 ? "" : "s"} looked at` };
  });
}
