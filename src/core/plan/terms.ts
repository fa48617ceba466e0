import { call, column, integer, type Expression } from "../expression/ast";
import { indicatorName } from "../steps/encode";
import type { LearnedValues } from "./build";
import type { CheckedPlan } from "./plan";

/** One number of a sparse feature: the weight of one learned term. */
export interface TermColumn {
  readonly name: string;
  readonly expression: Expression;
}

/** The learned terms of a sparse feature, each as a number of its own, in the order in which they were learned. */
export function termColumns(
  plan: CheckedPlan,
  feature: string,
  learned: LearnedValues,
): readonly TermColumn[] {
  const identity = plan.main.output.get(feature)?.identity;
  const position = plan.main.steps.findIndex(({ shape }) =>
    shape.writes.some((name) => shape.output.get(name)?.identity === identity),
  );
  const terms =
    (learned[String(position)] as { terms?: readonly { term: string }[] } | undefined)?.terms ?? [];
  // Within the vector a term is known by its number below zero, which no weight can be.
  return terms.map(({ term }, index) => ({
    name: indicatorName(feature, term, index),
    expression: call("term_weight", column(feature), integer(-(index + 1))),
  }));
}
