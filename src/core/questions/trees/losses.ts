import {
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  integer,
  sum,
  sumOf,
  truth,
  when,
  type Expression,
} from "../../expression/ast";
import type { Losses, TreeLoss } from "../../learn/trees/tree-questions";
import { filter, withColumns, type NamedExpression, type Relation } from "../../relation/relation";
import { safeExp } from "../frame/frame-rows";
import { oneWhere } from "../frame/predictor";
import { groupedNumbers, numbersOf } from "../groups";
import type { Question } from "../question";
import { valueByCode } from "./nodes";
import {
  curvatureName,
  gradientName,
  HELD,
  ROW_TARGET,
  ROW_WEIGHT,
  scoreName,
  stateRows,
  VOTED,
  voteName,
  type TreeState,
} from "./state";

const [target, weight] = [column(ROW_TARGET), column(ROW_WEIGHT)];
const scoreOf = (output: number): Expression => column(scoreName(output));
const places = (count: number): readonly number[] => Array.from({ length: count }, (_, place) => place);
const minus = (left: Expression, right: Expression): Expression => binary(left, "-", right);
const times = (left: Expression, right: Expression): Expression => binary(left, "*", right);

/** What sums of gradients and curvatures are multiplied by, so that they are whole numbers. */
export interface Scales {
  readonly gradient: number;
  readonly curvature: number;
}

/** Exponentials of scores less the largest score, and their sum. */
function exponentials(outputs: number): {
  readonly largest: Expression;
  readonly terms: readonly Expression[];
  readonly total: Expression;
} {
  const scores = places(outputs).map(scoreOf);
  const largest = call("greatest", ...scores);
  const terms = scores.map((score) => safeExp(minus(score, largest)));
  return { largest, terms, total: sumOf(terms) };
}

/** Gradient and curvature of every output, from the target and the scores of a row. */
function slopesOf(
  loss: TreeLoss,
  outputs: number,
): readonly (readonly [gradient: Expression, curvature: Expression])[] {
  const one = double(1);
  const residual = minus(scoreOf(0), target);
  switch (loss) {
    case "squared":
      return [[residual, one]];
    case "absolute":
      return [[call("sign", residual), one]];
    case "gini":
      return [[one, one]];
    case "logistic": {
      const e = safeExp({ kind: "negate", operand: scoreOf(0) });
      const probability = binary(one, "/", binary(one, "+", e));
      return [[minus(probability, target), times(probability, minus(one, probability))]];
    }
    case "softmax": {
      const { terms, total } = exponentials(outputs);
      return terms.map((exponential, output) => {
        const probability = binary(exponential, "/", total);
        const isOwn = oneWhere(binary(target, "=", integer(output)));
        const curvature = times(times(double(2), probability), minus(one, probability));
        return [minus(probability, isOwn), curvature] as const;
      });
    }
  }
}

/** Gradients and curvatures of every output as whole numbers. */
export function wholeSlopes(loss: TreeLoss, outputs: number, scales: Scales): readonly NamedExpression[] {
  const whole = (value: Expression, scale: number): Expression =>
    call("floor", binary(times(times(value, weight), double(scale)), "+", double(0.5)));
  return slopesOf(loss, outputs).flatMap(([gradient, curvature], output) => [
    { name: gradientName(output), expression: whole(gradient, scales.gradient) },
    { name: curvatureName(output), expression: whole(curvature, scales.curvature) },
  ]);
}

/** The loss of a row at its scores. */
function lossOf(loss: TreeLoss, outputs: number): Expression {
  const score = scoreOf(0);
  const residual = minus(target, score);
  switch (loss) {
    case "squared":
      return times(residual, residual);
    case "absolute":
      return call("abs", residual);
    case "gini":
      return double(0);
    case "logistic": {
      const size = call("least", call("abs", score), double(700));
      const e = call("exp", { kind: "negate", operand: size });
      const hinge = call("greatest", score, double(0));
      return minus(binary(hinge, "+", call("ln", binary(double(1), "+", e))), times(target, score));
    }
    case "softmax": {
      const { largest, total } = exponentials(outputs);
      const own = valueByCode(cast(target, "integer"), places(outputs).map(scoreOf));
      return minus(binary(call("ln", total), "+", largest), own);
    }
  }
}

/** Weighted mean; NULL where the weights are 0. */
const weightedMean = (value: Expression): Expression =>
  binary(sum(times(value, weight)), "/", call("nullif", sum(weight), double(0)));

/** Weight and number of rows of a state: rows, the largest weight, and all of it. */
export function weightsQuestion(rows: Relation): Question<{
  readonly rows: number;
  readonly largest: number | undefined;
  readonly total: number;
}> {
  const { relation, read } = numbersOf(rows, [asDouble(countRows), call("max", weight), sum(weight)]);
  return {
    relation,
    purpose: "count rows",
    read: (found) => {
      const [count, largest, total] = read(found);
      return { rows: count ?? 0, largest: largest ?? undefined, total: total ?? 0 };
    },
  };
}

/** The largest absolute gradient of squared loss at a score, times the row's weight. */
export function largestGradientQuestion(state: TreeState, score: Expression): Question<number> {
  const gradient = times(call("abs", minus(score, target)), weight);
  const { relation, read } = numbersOf(stateRows(state), [call("max", gradient)]);
  return { relation, purpose: "largest gradient", read: (found) => read(found)[0] ?? 0 };
}

const IS_HELD = "held_apart";

/**
 * Mean loss at the scores so far, of rows that trees are grown on and of rows held apart.
 * @param rows those of `scoredRows`
 */
export function lossesQuestion(
  rows: Relation,
  loss: TreeLoss,
  { outputs, held }: Pick<TreeState, "outputs" | "held">,
): Question<Losses> {
  const isHeld = oneWhere(held ? column(HELD) : truth(false));
  const { relation, read } = groupedNumbers(
    withColumns(rows, [{ name: IS_HELD, expression: isHeld }]),
    [IS_HELD],
    [weightedMean(lossOf(loss, outputs))],
  );
  return {
    relation,
    purpose: "loss so far",
    read: (found) => {
      const bySide = new Map(read(found).map(({ keys, values }) => [keys[0], values[0]]));
      const mean = (side: number): number => bySide.get(side) ?? Number.NaN;
      return { training: mean(0), ...(held ? { validation: mean(1) } : {}) };
    },
  };
}

/** Mean loss of the mean vote, over the rows that have one. */
export function outOfBagQuestion(
  state: TreeState,
  kind: "binary" | "number" | "classes",
): Question<{ readonly loss: number; readonly rows: number }> {
  const share = (output: number): Expression => binary(column(voteName(output)), "/", column(VOTED));
  const likelihood = (): Expression => {
    if (kind === "classes") return valueByCode(cast(target, "integer"), places(state.votes).map(share));
    return when(binary(target, "=", integer(1)), share(0), minus(double(1), share(0)));
  };
  const residual = minus(target, share(0));
  const loss: Expression =
    kind === "number"
      ? times(residual, residual)
      : { kind: "negate", operand: call("ln", call("greatest", likelihood(), double(1e-15))) };
  const voted = filter(stateRows(state), binary(column(VOTED), ">", integer(0)));
  const { relation, read } = numbersOf(voted, [weightedMean(loss), asDouble(countRows)]);
  return {
    relation,
    purpose: "out-of-bag error",
    read: (found) => {
      const [mean, rows] = read(found);
      return { loss: mean ?? Number.NaN, rows: rows ?? 0 };
    },
  };
}
