import { prune } from "@/core/relation/prune";
import { printRelation } from "@/core/relation/print";
import type { CheckedPlan } from "@/core/plan/plan";
import { placeKeys } from "@/core/plan/place-keys";
import type { ColumnProfile } from "@/core/evaluate/table-profile";
import { profileQuery } from "@/warehouse/profile";
import type { Warehouse } from "@/warehouse/warehouse";
import { relationAt } from "./preview";
import { Remembered } from "./remembered";

const profiles = new Remembered<ColumnProfile>();

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
  const checked = plan.strands.find((each) => each.name === strand)?.steps[after - 1];
  const renamed = [...(checked?.shape.renames ?? [])].find(([, to]) => to === column)?.[0] ?? column;
  const side = async (
    position: number,
    name: string,
    columns = checked?.input,
  ): Promise<ColumnProfile | undefined> => {
    const state = columns?.get(name);
    if (!state || state.bundle || state.type === "sparse" || position < 0) return undefined;
    const sql = printRelation(
      prune(await relationAt(plan, warehouse, strand, position, runTime), new Set([name])),
      { runTime },
    );
    return profiles.get(`${placeKeys(plan)(strand, position)} ${runTime} ${sql.length} ${name}`, () =>
      profileQuery(warehouse, sql, { name, type: state.type }),
    );
  };
  const [before, now] = await Promise.all([
    side(after - 1, renamed),
    side(after, column, checked?.shape.output),
  ]);
  return { column, before, after: now };
}
