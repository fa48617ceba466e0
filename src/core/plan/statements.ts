import type { Dialect } from "../dialect";
import type { Relation } from "../relation/relation";
import { baseRelation, frameRelation, learnRelations, needsBase, numberColumns } from "./frame";
import { PlanBuilder, type LearnedValues } from "./build";
import type { CheckedPlan } from "./plan";

export interface PlanStatement {
  readonly purpose: string;
  readonly sql: string;
}

/**
 * The statements of a training run, for reading. Values that are learned on the way are not known yet:
 * statements after a learned step are shown as they read before anything is filled in, unless `learned` is given.
 */
export function describePlan(
  plan: CheckedPlan,
  dialect: Dialect,
  runTime: string,
  learned: LearnedValues = {},
): readonly PlanStatement[] {
  const print = (relation: Relation): string => dialect.printRelation(relation, { runTime });
  const scratch = (table: string) => ({ schema: "scratch", table });
  const statements: PlanStatement[] = new PlanBuilder(plan).requirements().map((requirement) => ({
    purpose: `must be empty, otherwise "${requirement.step}" of ${requirement.strand} ${requirement.otherwise === "warn" ? "warns" : "stops the run"}`,
    sql: print(requirement.rows),
  }));
  const base = needsBase(plan) ? scratch("base") : undefined;
  if (base) {
    statements.push({
      purpose: "training rows, with the holdout flag",
      sql: print(baseRelation(plan)),
    });
    plan.main.steps.forEach(({ step }, position) => {
      for (const question of learnRelations(plan, position, learned, base))
        statements.push({ purpose: `what "${step.name}" learns from training rows`, sql: print(question) });
    });
  }
  const categories = plan.features
    .filter((feature) => feature.kind === "category")
    .map((feature) => ({ column: feature.name, levels: [] }));
  statements.push({
    purpose: "training frame",
    sql: print(frameRelation(plan, { numbers: numberColumns(plan, learned), categories }, learned, { base })),
  });
  return statements;
}
