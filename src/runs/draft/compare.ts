import type { CheckedPlan } from "@/core/plan/plan";
import type { ColumnProfile } from "@/core/evaluate/table-profile";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { profileAt } from "./profile-at";

/** A column's distribution before a step and after it; undefined on the side where it does not exist. */
export interface Comparison {
  readonly column: string;
  readonly before: ColumnProfile | undefined;
  readonly after: ColumnProfile | undefined;
}

/** How a step changed the distribution of a column. */
export async function compareColumn(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
  column: string,
): Promise<Comparison> {
  const checked = plan.strands.find((oneStrand) => oneStrand.name === strand)?.steps[after - 1];
  const renamed = [...(checked?.shape.renames ?? [])].find(([, to]) => to === column)?.[0] ?? column;
  const [before, now] = await Promise.all([
    profileAt(plan, warehouse, { strand, after: after - 1, column: renamed }, runTime),
    profileAt(plan, warehouse, { strand, after, column }, runTime),
  ]);
  return { column, before: before?.profile, after: now?.profile };
}
