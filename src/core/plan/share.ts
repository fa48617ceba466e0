import { binary, column, double, truth, type Expression } from "../expression/ast";
import { digestOf, fractionOf } from "../expression/digest";
import { failure, problem, success, type Result } from "../problem";
import { prune } from "../relation/prune";
import { divisionOf, type Division } from "../relation/shareable";
import { PlanBuilder } from "./build";
import { neededColumns } from "./frame";
import type { CheckedPlan, CheckedStrand } from "./plan";

/** Whether a row is in the share that is worked on: by a hash, so that it is the same rows every time. */
const inShare = (by: readonly string[], share: number): Expression =>
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

/** The strands that the main strand's rows pass through, from the one that begins with a table to the main strand itself. */
function wayOf(plan: CheckedPlan, strand: CheckedStrand): readonly CheckedStrand[] {
  const { from } = strand;
  const other = from.kind === "strand" ? plan.strands.find((strand) => strand.name === from.name) : undefined;
  return other ? [...wayOf(plan, other), strand] : [strand];
}

/** A place in a strand: its rows after some of its steps. */
interface Place {
  readonly strand: CheckedStrand;
  readonly after: number;
}

/** Places where a share may be taken, the earliest first: behind steps that look at rows singly, or put rows of other tables beneath them. */
const placesOf = (plan: CheckedPlan): readonly Place[] =>
  wayOf(plan, plan.main).flatMap((strand) => {
    const grouping = strand.steps.findIndex(({ step }) => step.regroups && step.kind !== "stack");
    const last = grouping === -1 ? strand.steps.length : grouping;
    return Array.from({ length: last + 1 }, (_, after) => ({ strand, after })).filter(
      ({ after }) => after === 0 || strand.steps[after - 1]!.step.kind === "stack",
    );
  });

/** How the rows at a place may be divided. */
function divisionAt(plan: CheckedPlan, { strand, after }: Place): Division {
  const mark = truth(true);
  const marked = { ...plan, share: { strand: strand.name, after, condition: mark } };
  const rows = prune(new PlanBuilder(marked).main({ learned: {} }), neededColumns(plan));
  return divisionOf(rows, (node) => node.kind === "filter" && node.condition === mark);
}

/** Rows are told apart by the key where it is there, else by all columns. */
function rowColumns(plan: CheckedPlan, { strand, after }: Place): readonly string[] {
  const columns = [...(strand.steps[after]?.input ?? strand.output).keys()];
  const key = plan.file.roles.key.filter((name) => columns.includes(name));
  return key.length > 0 ? key : columns;
}

const sharedBy = (
  plan: CheckedPlan,
  { strand, after }: Place,
  by: readonly string[],
  of: number,
): CheckedPlan => ({ ...plan, share: { strand: strand.name, after, condition: inShare(by, of) } });

/**
 * The same plan over a share of the rows that the main strand begins with; tables that are joined stay whole, so that nothing loses its
 * match. Where steps look at several rows together, these are in the share or not as one, so each row is as it would be among all.
 * Refused (no_share) where a step looks at rows that no share holds together.
 * @param share above 0; 1 takes all rows
 */
export function withShare(plan: CheckedPlan, share: number): Result<CheckedPlan> {
  if (share >= 1) return success(plan);
  let step: string | undefined;
  for (const place of placesOf(plan)) {
    const division = divisionAt(plan, place);
    if (division.kind === "any") return success(sharedBy(plan, place, rowColumns(plan, place), share));
    if (division.kind === "by") return success(sharedBy(plan, place, [...division.columns], share));
    step = division.step ?? step;
  }
  return failure(
    problem(
      "no_share",
      `The rows cannot be sampled: what ${step === undefined ? "a step" : `the step “${step}”`} computes for a row depends on rows outside the sample.`,
      "Train on all rows, or turn that step off for the trial.",
    ),
  );
}

/** The same plan over a share of the rows, for a first look at unsaved text: where no fair share can be taken, rows are taken singly. */
export function withRoughShare(plan: CheckedPlan, share: number): CheckedPlan {
  const fair = withShare(plan, share);
  if (fair.ok) return fair.value;
  const [root] = placesOf(plan);
  return sharedBy(plan, root!, rowColumns(plan, root!), share);
}
