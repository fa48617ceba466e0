import { hidden } from "../names/hidden";
import { binary, call, column, double, sumOf, type Expression } from "../expression/ast";
import type { NamedExpression } from "../relation/relation";
import { logShareExpression } from "./bayes/naive-bayes";
import { linearExpression } from "./linear/linear-part";
import { MOST_LOG_ODDS, treesOf, type Model } from "./model";
import { neighbourStages } from "./neighbours/neighbours-sql";
import { networkStages } from "./network/network";
import { treeExpression } from "./trees/tree";

/**
 * A model as SQL: columns to compute over the prepared rows, stage after stage (each reads the rows and the columns of the stages
 * before it), and the prediction in terms of them: the probability of yes, the number, or a probability for each class.
 */
export interface ScoringProgram {
  readonly stages: readonly (readonly NamedExpression[])[];
  readonly outputs: readonly Expression[];
}

/** Beyond this many tree nodes a statement is too long to be planned in reasonable time: such a model scores by streaming. */
export const MOST_NODES = 60_000;

/** Whether the model is small enough to be a statement. */
export const fitsStatement = (model: Model): boolean =>
  treesOf(model).reduce((sum, tree) => sum + tree.nodes.length, 0) <= MOST_NODES;

/** The probability of yes as SQL, from an expression of the log odds that is cheap to repeat. NULL stays NULL. */
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
function single(predictor: Expression, output: (value: Expression) => Expression): ScoringProgram {
  const name = hidden("predictor");
  return { stages: [[{ name, expression: predictor }]], outputs: [output(column(name))] };
}

/** Probabilities of classes from their predictors, the same arithmetic as {@link shareOut}. */
function softmax(
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

/** The prediction of a model of trees from the sums of their values, one for each output. */
export function finishTrees(model: Model, sums: readonly Expression[]): ScoringProgram {
  if (model.algorithm === "random_forest")
    return { stages: [], outputs: sums.map((sum) => binary(sum, "/", double(model.trees.length))) };
  if (model.algorithm !== "boosted_trees") return { stages: [], outputs: sums };
  if (model.link === "softmax") return softmax([], sums);
  return single(sums[0]!, model.link === "logistic" ? probabilityExpression : (value) => value);
}

/**
 * Compiles a model to SQL.
 * @param number how a number column of the frame is computed from the prepared rows
 */
export function scoringProgram(model: Model, number: (name: string) => Expression): ScoringProgram {
  switch (model.algorithm) {
    case "base_rate":
      return { stages: [], outputs: model.outputs.map(double) };
    case "linear_regression":
      return single(linearExpression(model, number), (value) => value);
    case "logistic_regression":
      return single(linearExpression(model, number), probabilityExpression);
    case "support_vector":
      return single(
        binary(
          binary(double(model.calibration.slope), "*", linearExpression(model, number)),
          "+",
          double(model.calibration.offset),
        ),
        probabilityExpression,
      );
    case "multinomial_regression":
      return softmax([], [double(0), ...model.predictors.map((part) => linearExpression(part, number))]);
    case "naive_bayes": {
      const program = softmax(
        [],
        model.priors.map((_, code) => logShareExpression(model, code, number)),
      );
      return model.binary ? { ...program, outputs: [program.outputs[1]!] } : program;
    }
    case "decision_tree":
      return finishTrees(
        model,
        model.tree.nodes[0]!.value.map((_, output) => treeExpression(model.tree, output, number)),
      );
    case "random_forest":
      return finishTrees(
        model,
        model.trees[0]!.nodes[0]!.value.map((_, output) =>
          sumOf([double(0), ...model.trees.map((tree) => treeExpression(tree, output, number))]),
        ),
      );
    case "boosted_trees":
      return finishTrees(
        model,
        model.start.map((start, output) =>
          sumOf([double(start), ...model.rounds.map((trees) => treeExpression(trees[output]!, 0, number))]),
        ),
      );
    case "nearest_neighbours":
      return neighbourStages(model, number);
    case "neural_network": {
      const { stages, sums } = networkStages(model, number);
      const scaled = sums.map((sum) =>
        binary(binary(sum, "*", double(model.target.spread)), "+", double(model.target.centre)),
      );
      if (model.link === "softmax") return softmax(stages, scaled);
      const last = single(scaled[0]!, model.link === "logistic" ? probabilityExpression : (value) => value);
      return { stages: [...stages, ...last.stages], outputs: last.outputs };
    }
  }
}
