import { binary, column, double, type Expression } from "../expression/ast";
import { digestOf, fractionOf } from "../expression/digest";
import type { CheckedPlan, CheckedStrand } from "./plan";

/** Whether a row is in the share that is worked on: by a hash, so that it is the same rows every time. */
export const inShare = (by: readonly string[], share: number): Expression =>
  binary(
    fractionOf(
      digestOf(
        "share",
        by.map((name) => column(name)),
      ),
      1,
    ),
    "<",
    double(share),
  );

/**
 * The same plan over a share of the rows that the main strand begins with; tables that are joined stay whole, so that
 * nothing loses its match. Rows are told apart by the key where the table has it, else by all its columns.
 * @param share from 0 to 1; 1 takes all rows
 */
export function withShare(plan: CheckedPlan, share: number): CheckedPlan {
  if (share >= 1) return plan;
  const root = rootOf(plan, plan.main);
  const columns = [...root.start.keys()];
  const key = plan.file.roles.key.filter((name) => columns.includes(name));
  return { ...plan, share: { strand: root.name, of: share, by: key.length > 0 ? key : columns } };
}

/** The strand whose table the rows of a strand come from. */
function rootOf(plan: CheckedPlan, strand: CheckedStrand): CheckedStrand {
  const { from } = strand;
  const other = from.kind === "strand" ? plan.strands.find((each) => each.name === from.name) : undefined;
  return other ? rootOf(plan, other) : strand;
}
