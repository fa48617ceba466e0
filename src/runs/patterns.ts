import type { CheckedPlan } from "@/core/plan/plan";
import { problem, type Problem } from "@/core/problem";
import type { Warehouse } from "@/warehouse/port/warehouse";

/** What the warehouse has against the regular expressions in a plan's steps, each problem at its setting. */
export async function patternProblems(plan: CheckedPlan, warehouse: Warehouse): Promise<readonly Problem[]> {
  const patterns = plan.file.strands.flatMap(({ name }, strand) =>
    (plan.strands.find((strand) => strand.name === name)?.steps ?? []).flatMap(({ step }, position) =>
      step.patterns.map((pattern) => ({
        ...pattern,
        path: ["strands", strand, "steps", position, pattern.setting],
      })),
    ),
  );
  const found = await Promise.all(
    patterns.map(async ({ text, path }) => {
      const says = await warehouse.badPattern(text);
      return says === undefined
        ? []
        : [
            problem(
              "bad_pattern",
              `This is not a regular expression of PostgreSQL: ${says}.`,
              "Check its brackets; escape literal brackets with a backslash.",
              { path },
            ),
          ];
    }),
  );
  return found.flat();
}
