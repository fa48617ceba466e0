import { placeKeys } from "@/core/plan/place-keys";
import type { CheckedPlan } from "@/core/plan/plan";
import { prune } from "@/core/relation/prune";
import { canonicalJson, sha256 } from "@/core/hash";
import type { ColumnProfile } from "@/core/evaluate/table-profile";
import type { ColumnSet } from "@/core/steps/step";
import type { ValueType } from "@/core/value-type";
import { profileColumn } from "@/warehouse/profile";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { relationAt } from "./preview";
import { Remembered } from "./remembered";

const profiles = new Remembered<ColumnProfile>();

/** Where a column stands: behind so many steps of a strand. */
export interface ColumnPlace {
  readonly strand: string;
  readonly after: number;
  readonly column: string;
}

/** A column's type and what its values are. */
export interface PlacedProfile {
  readonly type: ValueType;
  readonly profile: ColumnProfile;
}

/** Columns behind so many steps of a strand; undefined where there is no such place. */
function columnsAt(plan: CheckedPlan, strand: string, after: number): ColumnSet | undefined {
  const found = plan.strands.find((oneStrand) => oneStrand.name === strand);
  if (!found || after < 0) return undefined;
  return after < found.steps.length ? found.steps[after]!.input : found.output;
}

/** What the values of a column are at a place; undefined where it does not exist or has no values that can be looked at. */
export async function profileAt(
  plan: CheckedPlan,
  warehouse: Warehouse,
  { strand, after, column }: ColumnPlace,
  runTime: string,
): Promise<PlacedProfile | undefined> {
  const state = columnsAt(plan, strand, after)?.get(column);
  if (!state || state.bundle || state.type === "sparse") return undefined;
  const { type } = state;
  const relation = prune(await relationAt(plan, warehouse, strand, after, runTime), new Set([column]));
  const rows = sha256(canonicalJson(relation));
  const profile = await profiles.get(`${placeKeys(plan)(strand, after)} ${runTime} ${rows} ${column}`, () =>
    profileColumn(warehouse, relation, { name: column, type }, { runTime }),
  );
  return { type, profile };
}
