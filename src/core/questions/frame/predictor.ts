import {
  binary,
  call,
  column,
  double,
  sumOf,
  sumWhere,
  when,
  integer,
  type Expression,
} from "../../expression/ast";
import type { Design } from "../../learn/linear/design";
import type { MarginCount } from "../../learn/questions";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "../../plan/frame-columns";
import { filter, project, type NamedExpression, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { DRAW_COLUMN } from "../../steps/step";
import { groupedNumbers } from "../groups";
import type { Question } from "../question";
import { target, type FrameRows } from "./frame-rows";

/** Centre a column inside of a question only where its mean would cost digits. */
const FAR_FROM_ZERO = 100;

/** A number column, with what stands in for a missing value. Numbers are counted from 1, as in the coefficients. */
function filled(design: Design, index: number, scaled: boolean): Expression {
  const name = column(design.numbers[index - 1]!);
  const fill = design.fills[index - 1];
  return scaled || fill === undefined ? name : call("coalesce", name, double(fill));
}

/** A number column on the solver's scale. */
export const onSolversScale = (design: Design, index: number): Expression =>
  binary(
    binary(filled(design, index, false), "-", double(design.centres[index]!)),
    "/",
    double(design.spreads[index]!),
  );

/** What is subtracted from a column inside of a question: nothing, unless its mean is far from zero. */
export function offsetOf(design: Design, index: number): number {
  const centre = design.centres[index]!;
  return Math.abs(centre) > FAR_FROM_ZERO * design.spreads[index]! ? centre : 0;
}

/** A number column as the sums read it: filled, and shifted towards zero when it lies far off. */
export function shifted(design: Design, index: number, scaled: boolean): Expression {
  const offset = scaled ? 0 : offsetOf(design, index);
  const value = filled(design, index, scaled);
  return offset === 0 ? value : binary(value, "-", double(offset));
}

/** Linear predictor at coefficients on the solver's scale, over the frame's raw columns or the sample's scaled ones. */
export function predictorExpression(design: Design, coefficients: Float64Array, scaled: boolean): Expression {
  let intercept = coefficients[0]!;
  const numbers = design.numbers.map((_, place) => {
    const index = place + 1;
    if (scaled) return binary(double(coefficients[index]!), "*", filled(design, index, true));
    const slope = coefficients[index]! / design.spreads[index]!;
    intercept -= slope * (design.centres[index]! - offsetOf(design, index));
    return binary(double(slope), "*", shifted(design, index, false));
  });
  const levels = design.categories.map((category) => {
    const values = category.positions
      .slice(1)
      .map((position) => (position < 0 ? 0 : coefficients[position]! / design.spreads[position]!));
    const found: Expression = { kind: "element", place: column(category.column), values };
    return call("coalesce", found, double(0));
  });
  return sumOf([double(intercept), ...numbers, ...levels]);
}

/** Names of the features of a design: numbers, then categories. */
export const featureNames = (design: Design): readonly string[] => [
  ...design.numbers,
  ...design.categories.map((category) => category.column),
];

/** Columns that a projection keeps as they are. */
export const keptColumns = (names: readonly string[]): readonly NamedExpression[] =>
  names.map((name) => ({ name, expression: column(name) }));

/**
 * The fixed sample: target, weight, and features with numbers on the solver's scale.
 * @param share of the rows that are taken, drawn at random
 */
export function sampleRows({ rows, weight }: FrameRows, design: Design, share: number): Relation {
  const drawn = share >= 1 ? rows : filter(rows, binary(column(DRAW_COLUMN), "<", double(share)));
  return project(drawn, [
    { name: TARGET_COLUMN, expression: target },
    ...(weight === undefined ? [] : [{ name: WEIGHT_COLUMN, expression: weight }]),
    ...design.numbers.map((name, place) => ({ name, expression: onSolversScale(design, place + 1) })),
    ...keptColumns(design.categories.map((category) => category.column)),
  ]);
}

/** Names of the columns of {@link sampleRows}. */
export const sampleColumns = (design: Design, weighted: boolean): readonly string[] => [
  TARGET_COLUMN,
  ...(weighted ? [WEIGHT_COLUMN] : []),
  ...featureNames(design),
];

const MARGIN = hidden("margin");

/** Weight by answer of rows by their linear predictor, rounded to 1/1000 and kept within ±30. */
export function marginsQuestion(
  frame: FrameRows,
  design: Design,
  coefficients: Float64Array,
): Question<readonly MarginCount[]> {
  const predictor = predictorExpression(design, coefficients, frame.scaled);
  const within = call("greatest", double(-30), call("least", double(30), predictor));
  const thousandths = call("round", binary(within, "*", integer(1000)));
  const margins = project(frame.rows, [
    { name: MARGIN, expression: binary(thousandths, "/", integer(1000)) },
    { name: TARGET_COLUMN, expression: target },
    { name: WEIGHT_COLUMN, expression: frame.weight ?? double(1) },
  ]);
  const weightWhere = (answer: number): Expression =>
    call("coalesce", sumWhere(column(WEIGHT_COLUMN), binary(target, "=", integer(answer))), double(0));
  const { relation, read } = groupedNumbers(margins, [MARGIN], [weightWhere(1), weightWhere(0)]);
  return {
    relation,
    purpose: "rows by margin",
    read: (rows) =>
      read(rows)
        .map(({ keys, values }) => ({
          margin: keys[0] ?? 0,
          positives: values[0] ?? 0,
          negatives: values[1] ?? 0,
        }))
        .toSorted((left, right) => left.margin - right.margin),
  };
}

/** 1 where a condition is true, else 0. */
export const oneWhere = (condition: Expression): Expression => when(condition, integer(1), integer(0));
