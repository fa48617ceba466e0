import { asDouble, binary, call, column, double, integer, type Expression } from "../../expression/ast";
import type { Design } from "../../learn/linear/design";
import type { LinearLoss } from "../../learn/questions";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "../../plan/frame-columns";
import { fence, project, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { target, type FrameRows } from "./frame-rows";
import { featureNames, keptColumns, oneWhere, predictorExpression } from "./predictor";

/** The loss of a row with its first and second derivative in the predictor. */
export const [LOSS, RESIDUAL, CURVATURE] = ["loss", "residual", "curvature"].map(hidden) as [
  string,
  string,
  string,
];
const PREDICTOR = hidden("predictor");

/** The target on the scale on which a loss compares it with the predictor. */
function scaledTarget(loss: LinearLoss, { target: { centre, spread } }: Design): Expression {
  if (loss === "logistic") return target;
  if (loss === "squared_hinge") return binary(binary(integer(2), "*", target), "-", integer(1));
  if (centre === 0 && spread === 1) return target;
  return binary(binary(target, "-", double(centre)), "/", double(spread));
}

interface LossExpressions {
  readonly loss: Expression;
  readonly residual: Expression;
  readonly curvature: Expression;
}

const times = (left: Expression, right: Expression): Expression => binary(left, "*", right);

/** Logistic loss with tanh and exp(-|predictor|), which can neither overflow nor underflow. */
function logistic(y: Expression, eta: Expression): LossExpressions {
  const half = double(0.5);
  const e = call("exp", { kind: "negate", operand: call("least", call("abs", eta), double(700)) });
  const more = binary(integer(1), "+", e);
  const probability = binary(times(half, call("tanh", times(half, eta))), "+", half);
  const hinge = call("greatest", eta, double(0));
  return {
    residual: binary(probability, "-", y),
    loss: binary(binary(hinge, "+", call("ln", more)), "-", times(y, eta)),
    curvature: binary(e, "/", times(more, more)),
  };
}

function squared(y: Expression, eta: Expression): LossExpressions {
  const residual = binary(eta, "-", y);
  return { residual, loss: times(times(double(0.5), residual), residual), curvature: double(1) };
}

function squaredHinge(y: Expression, eta: Expression): LossExpressions {
  const margin = times(y, eta);
  const short = call("greatest", double(0), binary(integer(1), "-", margin));
  return {
    residual: times({ kind: "negate", operand: y }, short),
    loss: times(times(double(0.5), short), short),
    curvature: asDouble(oneWhere(binary(margin, "<", integer(1)))),
  };
}

const LOSSES: Readonly<Record<LinearLoss, (y: Expression, eta: Expression) => LossExpressions>> = {
  logistic,
  squared,
  squared_hinge: squaredHinge,
};

/**
 * Rows with loss, residual and, on request, curvature, each times the row's weight, the weight, and the
 * features. Fenced, so that the predictor is computed once a row, and the residual once for all sums.
 */
export function residualRows(
  frame: FrameRows,
  design: Design,
  coefficients: Float64Array,
  { loss, curved }: { readonly loss: LinearLoss; readonly curved: boolean },
): Relation {
  const { weight } = frame;
  const kept = keptColumns(featureNames(design));
  const predicted = fence(
    project(frame.rows, [
      { name: TARGET_COLUMN, expression: scaledTarget(loss, design) },
      { name: PREDICTOR, expression: predictorExpression(design, coefficients, frame.scaled) },
      ...(weight === undefined ? [] : [{ name: WEIGHT_COLUMN, expression: weight }]),
      ...kept,
    ]),
  );
  const weighted = (value: Expression): Expression =>
    weight === undefined ? value : times(value, column(WEIGHT_COLUMN));
  const found = LOSSES[loss](target, column(PREDICTOR));
  return fence(
    project(predicted, [
      { name: RESIDUAL, expression: weighted(found.residual) },
      { name: LOSS, expression: weighted(found.loss) },
      ...(curved ? [{ name: CURVATURE, expression: weighted(found.curvature) }] : []),
      ...(weight === undefined ? [] : keptColumns([WEIGHT_COLUMN])),
      ...kept,
    ]),
  );
}
