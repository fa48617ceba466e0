import { binary, column, sum, type Expression } from "../../expression/ast";
import type { Design } from "../../learn/linear/design";
import type { Curvature, LinearLoss } from "../../learn/questions";
import { WEIGHT_COLUMN } from "../../plan/frame-columns";
import { zeros } from "../../numeric/cholesky";
import { fence, project, type Relation } from "../../relation/relation";
import { groupedNumbers, numbersOf } from "../groups";
import type { Question } from "../question";
import { chunks, MOST_RESULT_COLUMNS } from "../result-columns";
import type { FrameRows } from "./frame-rows";
import { keptColumns, onSolversScale } from "./predictor";
import { CURVATURE, LOSS, RESIDUAL, residualRows } from "./residuals";
import { weightTotal, type SlopePart } from "./slope";

/** What a question adds to loss, gradient and second derivatives, with levels as columns of 0 and 1. */
export interface CurvaturePart extends SlopePart {
  readonly hessian: readonly (readonly [i: number, j: number, value: number])[];
}

type Values = readonly (number | null)[];

const [residual, curvature] = [column(RESIDUAL), column(CURVATURE)];
const times = (left: Expression, right: Expression): Expression => binary(left, "*", right);

/**
 * Rows with residual, loss and curvature whose numbers are on the solver's scale, so that products of far-off
 * means keep their digits.
 */
function scaledRows(
  frame: FrameRows,
  design: Design,
  coefficients: Float64Array,
  loss: LinearLoss,
): Relation {
  const rows = residualRows(frame, design, coefficients, { loss, curved: true });
  if (frame.scaled) return rows;
  return fence(
    project(rows, [
      ...keptColumns([RESIDUAL, LOSS, CURVATURE]),
      ...(frame.weight === undefined ? [] : keptColumns([WEIGHT_COLUMN])),
      ...design.numbers.map((name, place) => ({ name, expression: onSolversScale(design, place + 1) })),
      ...keptColumns(design.categories.map((category) => category.column)),
    ]),
  );
}

/** Sums of residuals and curvatures, alone and times each number. */
const slopeSums = (numbers: readonly Expression[]): readonly Expression[] => [
  sum(residual),
  sum(curvature),
  ...numbers.flatMap((number) => [sum(times(residual, number)), sum(times(curvature, number))]),
];

/** Reads {@link slopeSums}: the gradient, and the first column of the second derivatives. */
function readSlopeSums(values: Values): Omit<CurvaturePart, "totals"> {
  const positions = Array.from({ length: values.length / 2 }, (_, position) => position);
  return {
    gradient: positions.map((position) => [position, values[2 * position] ?? 0]),
    hessian: positions.map((position) => [position, 0, values[2 * position + 1] ?? 0]),
  };
}

/** All pairs of number columns, with the products of their values: in as few questions as their number allows. */
function numberQuestions(
  rows: Relation,
  design: Design,
  total: Expression,
  purpose: string,
): readonly Question<CurvaturePart>[] {
  const numbers = design.numbers.map((name) => column(name));
  const pairs = numbers.flatMap((_, i) => numbers.slice(0, i + 1).map((_, j) => [i + 1, j + 1] as const));
  const slope = [total, sum(column(LOSS)), ...slopeSums(numbers)];
  // A few columns need one question for everything, many a question of their own for the slope.
  const together = pairs.length > 0 && pairs.length + slope.length <= MOST_RESULT_COLUMNS;
  const parts = together ? [pairs] : [[], ...chunks(pairs, MOST_RESULT_COLUMNS)];
  return parts.map((part, index): Question<CurvaturePart> => {
    const head = index === 0 ? slope : [];
    const products = part.map(([i, j]) => sum(times(times(curvature, numbers[i - 1]!), numbers[j - 1]!)));
    const { relation, read } = numbersOf(rows, [...head, ...products]);
    return {
      relation,
      purpose,
      read: (found) => {
        const values = read(found);
        const first = readSlopeSums(values.slice(2, head.length));
        const second = part.map(([i, j], place) => [i, j, values[head.length + place] ?? 0] as const);
        return {
          totals: index === 0 ? { rows: values[0] ?? 0, loss: values[1] ?? 0 } : undefined,
          gradient: first.gradient,
          hessian: [...first.hessian, ...second],
        };
      },
    };
  });
}

/** Sums by level of a category: its gradient, and its second derivatives with itself, the intercept and the numbers. */
function levelQuestion(
  rows: Relation,
  design: Design,
  category: Design["categories"][number],
  purpose: string,
): Question<CurvaturePart> {
  const numbers = design.numbers.map((name) => sum(times(curvature, column(name))));
  const { relation, read } = groupedNumbers(
    rows,
    [category.column],
    [sum(residual), sum(curvature), ...numbers],
  );
  return {
    relation,
    purpose,
    read: (found) => {
      const levels = read(found).flatMap(({ keys, values }) => {
        const position = category.positions[keys[0] ?? 0] ?? -1;
        return position < 0 ? [] : [{ position, values }];
      });
      return {
        totals: undefined,
        gradient: levels.map(({ position, values }) => [position, values[0] ?? 0]),
        hessian: levels.flatMap(({ position, values }) => [
          [position, position, values[1] ?? 0] as const,
          ...values.slice(1).map((value, index) => [position, index, value ?? 0] as const),
        ]),
      };
    },
  };
}

/** Sums of curvatures by pairs of levels of two categories. */
function levelPairQuestion(
  rows: Relation,
  [left, right]: readonly [Design["categories"][number], Design["categories"][number]],
  purpose: string,
): Question<CurvaturePart> {
  const { relation, read } = groupedNumbers(rows, [left.column, right.column], [sum(curvature)]);
  return {
    relation,
    purpose,
    read: (found) => ({
      totals: undefined,
      gradient: [],
      hessian: read(found).flatMap(({ keys, values }) => {
        const i = left.positions[keys[0] ?? 0] ?? -1;
        const j = right.positions[keys[1] ?? 0] ?? -1;
        return i < 0 || j < 0 ? [] : [[i, j, values[0] ?? 0] as const];
      }),
    }),
  };
}

/**
 * Loss, gradient and all second derivatives: cross products of numbers, sums by code for categories, and sums by
 * pairs of codes for two categories. Never a column per level.
 */
export function curvatureQuestions(
  frame: FrameRows,
  design: Design,
  coefficients: Float64Array,
  { loss, purpose }: { readonly loss: LinearLoss; readonly purpose: string },
): readonly Question<CurvaturePart>[] {
  const rows = scaledRows(frame, design, coefficients, loss);
  const pairs = design.categories.flatMap((left, i) =>
    design.categories.slice(0, i).map((right) => [left, right] as const),
  );
  return [
    ...numberQuestions(rows, design, weightTotal(frame), purpose),
    ...design.categories.map((category) => levelQuestion(rows, design, category, purpose)),
    ...pairs.map((pair) => levelPairQuestion(rows, pair, purpose)),
  ];
}

/** Puts the answers to {@link curvatureQuestions} together, on the solver's scale. */
export function curvatureOf(design: Design, parts: readonly CurvaturePart[]): Curvature {
  const size = design.terms.length;
  const hessian = zeros(size);
  const gradient = new Float64Array(size);
  // Levels are columns of 0 and 1 divided by their spread; numbers were scaled in the question.
  const scale = (index: number): number =>
    design.terms[index]!.kind === "level" ? design.spreads[index]! : 1;
  for (const part of parts) {
    for (const [position, value] of part.gradient) gradient[position] = value / scale(position);
    for (const [i, j, value] of part.hessian) {
      const scaled = value / (scale(i) * scale(j));
      hessian[i]![j] = scaled;
      hessian[j]![i] = scaled;
    }
  }
  const totals = parts.find((part) => part.totals)?.totals;
  return { rows: totals?.rows ?? 0, loss: totals?.loss ?? 0, gradient, hessian };
}
