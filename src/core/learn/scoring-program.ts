import { binary, call, column, double, sumOf, type Expression } from "../expression/ast";
import { hidden } from "../names/hidden";
import type { NamedExpression } from "../relation/relation";
import { MOST_LOG_ODDS, type Link } from "./links";

/**
 * A model as expressions: columns to compute over the prepared rows, stage after stage (each reads the rows and the
 * columns of the stages before it), and the prediction in terms of them: the probability of yes, the number, or a
 * probability for each class.
 */
export interface ScoringProgram {
  readonly stages: readonly (readonly NamedExpression[])[];
  readonly outputs: readonly Expression[];
}

/** How a number column of the frame is computed from the prepared rows. */
export type NumberExpression = (name: string) => Expression;

/** The probability of yes from an expression of the log odds that is cheap to repeat. NULL stays NULL. */
export function probabilityExpression(odds: Expression): Expression {
  const bounded = call("greatest", double(-MOST_LOG_ODDS), call("least", double(MOST_LOG_ODDS), odds));
  // greatest() and least() pass over NULL, which would turn a missing feature into a certain answer.
  return {
    kind: "case",
    branches: [
      {
        when: { kind: "is", operand: odds, test: "null", negated: true },
        then: binary(
          double(1),
          "/",
          binary(double(1), "+", call("exp", { kind: "negate", operand: bounded })),
        ),
      },
    ],
  };
}

/** One predictor, and what it is turned into. */
export function singleProgram(
  predictor: Expression,
  output: (value: Expression) => Expression = (value) => value,
): ScoringProgram {
  const name = hidden("predictor");
  return { stages: [[{ name, expression: predictor }]], outputs: [output(column(name))] };
}

/** Probabilities of classes from their predictors, the same arithmetic as `shareOut` (links). */
export function softmaxProgram(
  before: readonly (readonly NamedExpression[])[],
  predictors: readonly Expression[],
): ScoringProgram {
  const names = predictors.map((_, index) => hidden(`predictor_${index}`));
  const values = names.map((name) => column(name));
  const parts = names.map((_, index) => hidden(`part_${index}`));
  const known: Expression = { kind: "is", operand: sumOf(values), test: "null", negated: true };
  return {
    stages: [
      ...before,
      names.map((name, index) => ({ name, expression: predictors[index]! })),
      [{ name: hidden("most"), expression: call("greatest", ...values) }],
      parts.map((name, index) => ({
        name,
        expression: call(
          "exp",
          call("greatest", double(-MOST_LOG_ODDS), binary(values[index]!, "-", column(hidden("most")))),
        ),
      })),
      [{ name: hidden("total"), expression: sumOf(parts.map((name) => column(name))) }],
    ],
    outputs: parts.map((name): Expression => ({
      kind: "case",
      branches: [{ when: known, then: binary(column(name), "/", column(hidden("total"))) }],
    })),
  };
}

/** Predictions from predictors by a link, after some stages. */
export function linkedProgram(
  link: Link,
  before: readonly (readonly NamedExpression[])[],
  predictors: readonly Expression[],
): ScoringProgram {
  if (link === "softmax") return softmaxProgram(before, predictors);
  const last = singleProgram(predictors[0]!, link === "logistic" ? probabilityExpression : undefined);
  return { stages: [...before, ...last.stages], outputs: last.outputs };
}
