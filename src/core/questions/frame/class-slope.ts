import {
  binary,
  call,
  cast,
  column,
  double,
  integer,
  sum,
  sumOf,
  type Expression,
} from "../../expression/ast";
import type { Design } from "../../learn/linear/design";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "../../plan/frame-columns";
import { fence, project, withColumns, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import type { Question } from "../question";
import { safeExp, target, type FrameRows } from "./frame-rows";
import { featureNames, keptColumns, oneWhere, predictorExpression } from "./predictor";
import { LOSS } from "./residuals";
import { levelSumQuestions, residualSums, sumQuestions, weightTotal, type SlopePart } from "./slope";

/** The largest predictor of a row, the sum of exponentials, and by class predictor and residual. */
const [LARGEST, TOTAL] = [hidden("largest"), hidden("total")];
const predictorName = (code: number): string => hidden(`predictor_${code}`);
const residualName = (code: number): string => hidden(`residual_${code}`);

/**
 * Rows with their multinomial loss and residuals (probability minus 1 in the row's own class), for every class but
 * the first, whose predictor is 0. Fenced twice: predictors once a row, then their largest and the sum of exponentials.
 */
function classResidualRows(
  frame: FrameRows,
  design: Design,
  coefficients: Float64Array,
  codes: readonly number[],
): Relation {
  const size = design.terms.length;
  const { weight } = frame;
  const kept = [
    ...(weight === undefined ? [] : keptColumns([WEIGHT_COLUMN])),
    ...keptColumns(featureNames(design)),
  ];
  const predicted = fence(
    project(frame.rows, [
      { name: TARGET_COLUMN, expression: cast(target, "integer") },
      ...codes.map((code) => ({
        name: predictorName(code),
        expression: predictorExpression(
          design,
          coefficients.subarray((code - 1) * size, code * size),
          frame.scaled,
        ),
      })),
      ...(weight === undefined ? [] : [{ name: WEIGHT_COLUMN, expression: weight }]),
      ...keptColumns(featureNames(design)),
    ]),
  );
  const predictors = codes.map((code) => column(predictorName(code)));
  const largest = column(LARGEST);
  const exponential = (predictor: Expression): Expression => safeExp(binary(predictor, "-", largest));
  const totals = fence(
    project(
      withColumns(predicted, [{ name: LARGEST, expression: call("greatest", double(0), ...predictors) }]),
      [
        ...keptColumns([TARGET_COLUMN, LARGEST]),
        {
          name: TOTAL,
          expression: sumOf([safeExp({ kind: "negate", operand: largest }), ...predictors.map(exponential)]),
        },
        ...keptColumns(codes.map(predictorName)),
        ...kept,
      ],
    ),
  );
  const weighted = (value: Expression): Expression =>
    weight === undefined ? value : binary(value, "*", column(WEIGHT_COLUMN));
  const own: Expression = {
    kind: "case",
    subject: target,
    branches: codes.map((code) => ({ when: integer(code), then: column(predictorName(code)) })),
    otherwise: double(0),
  };
  const logarithm = binary(largest, "+", call("ln", column(TOTAL)));
  return fence(
    project(totals, [
      { name: LOSS, expression: weighted(binary(logarithm, "-", own)) },
      ...codes.map((code) => {
        const probability = binary(exponential(column(predictorName(code))), "/", column(TOTAL));
        const isOwn = oneWhere(binary(target, "=", integer(code)));
        return { name: residualName(code), expression: weighted(binary(probability, "-", isOwn)) };
      }),
      ...kept,
    ]),
  );
}

/**
 * Loss and gradient of the multinomial log loss.
 * @param coefficients those of every class but the first, one class after the other
 */
export function classSlopeQuestions(
  frame: FrameRows,
  design: Design,
  coefficients: Float64Array,
): readonly Question<SlopePart>[] {
  const size = design.terms.length;
  const codes = Array.from({ length: coefficients.length / size }, (_, output) => output + 1);
  const rows = classResidualRows(frame, design, coefficients, codes);
  const residuals = codes.map((code) => column(residualName(code)));
  const sums = residuals.flatMap((residual, output) =>
    residualSums(design, residual, frame.scaled).map(({ position, expression }) => ({
      position: output * size + position,
      expression,
    })),
  );
  const purpose = "loss and gradient of every class";
  return [
    ...sumQuestions(rows, [weightTotal(frame), sum(column(LOSS))], sums, purpose),
    ...levelSumQuestions(rows, design, residuals, purpose),
  ];
}
