import { allOf, column, isNotNull, NULL, when, type Expression } from "../expression/ast";
import { hasOneOf, valuesOf, type Scalar } from "../expression/has-value";
import type { PipelineFile } from "../pipeline/schema";
import { problem, type Problem } from "../problem";
import type { ValueType } from "../value-type";

type Target = PipelineFile["roles"]["target"];

/** What tells yes from no. */
export interface AnswerSides {
  /** True for positive rows, false for negative ones, NULL for those that are neither. */
  readonly positive: Expression;
  /** Where negative values are named: whether the answer of a row is one of those named. */
  readonly named?: Expression;
}

/**
 * The sides of an answer that is no yes/no column: its positive values, and its negative ones, which are all others when none are named.
 * @param report is told of values that the column cannot have, and of those on both sides
 * @returns undefined where no value is positive
 */
export function answerSides(
  target: Target,
  type: ValueType,
  report: (found: Problem) => void,
): AnswerSides | undefined {
  const positives = valuesOf(target.positive);
  const negatives = valuesOf(target.negative);
  if (positives.length === 0) return undefined;
  const sideOf = (values: readonly Scalar[], side: "positive" | "negative"): Expression => {
    const { condition, impossible } = hasOneOf(target.column, type, values);
    if (impossible.length > 0)
      report(
        problem(
          "type_clash",
          `"${target.column}" is ${type}, but its ${side} value is ${JSON.stringify(impossible[0])}.`,
          "Give a number.",
          { path: ["roles", "target", side] },
        ),
      );
    return condition;
  };
  const positive = sideOf(positives, "positive");
  if (negatives.length === 0) return { positive };
  const both = positives.find((value) => negatives.some((other) => String(other) === String(value)));
  if (both !== undefined)
    report(
      problem(
        "both_sides",
        `${JSON.stringify(both)} is both positive and negative.`,
        "Take it out of one of the two.",
        { path: ["roles", "target", "negative"] },
      ),
    );
  sideOf(negatives, "negative");
  const { condition: named } = hasOneOf(target.column, type, [...positives, ...negatives]);
  return { positive: when(named, positive, NULL), named };
}

/** Rows of a condition that have one of the named answers. */
export const withNamedAnswer = (rows: Expression, named: Expression | undefined): Expression =>
  named === undefined ? rows : allOf([rows, named]);

/** Rows of a condition that have an answer, but none of those named. */
export const otherAnswer = (rows: Expression, target: string, named: Expression): Expression =>
  allOf([rows, isNotNull(column(target)), { kind: "not", operand: named }]);
