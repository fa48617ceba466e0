import {
  asDouble,
  binary,
  column,
  countRows,
  integer,
  sum,
  sumWhere,
  type Expression,
} from "../../expression/ast";
import type { Design } from "../../learn/linear/design";
import type { LinearLoss, Slope } from "../../learn/questions";
import { WEIGHT_COLUMN } from "../../plan/frame-columns";
import type { Relation } from "../../relation/relation";
import { groupedNumbers, numbersOf } from "../groups";
import type { Question } from "../question";
import { chunks, MOST_RESULT_COLUMNS } from "../result-columns";
import type { FrameRows } from "./frame-rows";
import { offsetOf, shifted } from "./predictor";
import { LOSS, RESIDUAL, residualRows } from "./residuals";

/** Levels of a category up to which their gradients are taken as filtered sums beside the others, in one pass. */
export const FEW_LEVELS = 32;

/**
 * What a question adds to a slope: its totals, and sums by their position in the gradient, before the change of
 * scale.
 */
export interface SlopePart {
  readonly totals: Pick<Slope, "rows" | "loss"> | undefined;
  readonly gradient: readonly (readonly [position: number, value: number])[];
}

/** A sum, and where in the gradient it belongs. */
export interface PositionedSum {
  readonly position: number;
  readonly expression: Expression;
}

/** Sum of the weights of rows that {@link residualRows} gives. */
export const weightTotal = ({ weight }: FrameRows): Expression =>
  weight === undefined ? asDouble(countRows) : sum(column(WEIGHT_COLUMN));

/** Sums of residuals that give the gradient: of the intercept, of numbers, and of levels of small categories. */
export function residualSums(
  design: Design,
  residual: Expression,
  scaled: boolean,
): readonly PositionedSum[] {
  const numbers = design.numbers.map((_, place) => ({
    position: place + 1,
    expression: sum(binary(residual, "*", shifted(design, place + 1, scaled))),
  }));
  const levels = design.categories
    .filter((category) => category.levels.length <= FEW_LEVELS)
    .flatMap((category) =>
      category.positions.flatMap((position, code) => {
        const isOfLevel = binary(column(category.column), "=", integer(code));
        return position < 0 ? [] : [{ position, expression: sumWhere(residual, isOfLevel) }];
      }),
    );
  return [{ position: 0, expression: sum(residual) }, ...numbers, ...levels];
}

/** Totals and positioned sums over rows, in as many questions as their number needs. */
export function sumQuestions(
  rows: Relation,
  totals: readonly [weight: Expression, loss: Expression],
  sums: readonly PositionedSum[],
  purpose: string,
): readonly Question<SlopePart>[] {
  return chunks(sums, MOST_RESULT_COLUMNS - totals.length).map((part, index): Question<SlopePart> => {
    const head = index === 0 ? totals : [];
    const { relation, read } = numbersOf(rows, [...head, ...part.map(({ expression }) => expression)]);
    return {
      relation,
      purpose,
      read: (found) => {
        const values = read(found);
        return {
          totals: index === 0 ? { rows: values[0] ?? 0, loss: values[1] ?? 0 } : undefined,
          gradient: part.map(({ position }, place) => [position, values[head.length + place] ?? 0]),
        };
      },
    };
  });
}

/**
 * Sums of residuals by level, for categories of many levels, a question each.
 * @param residuals one for each output; the gradient of an output starts at its number times the terms of the design
 */
export function levelSumQuestions(
  rows: Relation,
  design: Design,
  residuals: readonly Expression[],
  purpose: string,
): readonly Question<SlopePart>[] {
  return design.categories
    .filter((category) => category.levels.length > FEW_LEVELS)
    .map((category): Question<SlopePart> => {
      const { relation, read } = groupedNumbers(rows, [category.column], residuals.map(sum));
      return {
        relation,
        purpose,
        read: (found) => ({
          totals: undefined,
          gradient: read(found).flatMap(({ keys, values }) => {
            const position = category.positions[keys[0] ?? 0] ?? -1;
            if (position < 0) return [];
            return values.map((value, output): readonly [number, number] => [
              output * design.terms.length + position,
              value ?? 0,
            ]);
          }),
        }),
      };
    });
}

/** Loss and gradient: one question, and one more for each category of many levels. */
export function slopeQuestions(
  frame: FrameRows,
  design: Design,
  coefficients: Float64Array,
  { loss, purpose }: { readonly loss: LinearLoss; readonly purpose: string },
): readonly Question<SlopePart>[] {
  const rows = residualRows(frame, design, coefficients, { loss, curved: false });
  const residual = column(RESIDUAL);
  return [
    ...sumQuestions(
      rows,
      [weightTotal(frame), sum(column(LOSS))],
      residualSums(design, residual, frame.scaled),
      purpose,
    ),
    ...levelSumQuestions(rows, design, [residual], purpose),
  ];
}

/** Turns sums by position into the gradient on the solver's scale. */
function scaleGradient(design: Design, scaled: boolean, raw: Float64Array): Float64Array {
  return raw.map((value, index) => {
    if (index === 0 || (scaled && design.terms[index]!.kind === "number")) return value;
    return (value - (design.centres[index]! - offsetOf(design, index)) * raw[0]!) / design.spreads[index]!;
  });
}

/**
 * Puts the answers to {@link slopeQuestions} together.
 * @param scaled whether they were asked of rows on the solver's scale
 * @param outputs how many gradients there are, one after the other
 */
export function slopeOf(design: Design, scaled: boolean, parts: readonly SlopePart[], outputs = 1): Slope {
  const size = design.terms.length;
  const raw = new Float64Array(outputs * size);
  for (const [position, value] of parts.flatMap(({ gradient }) => gradient)) raw[position] = value;
  const gradient = new Float64Array(raw.length);
  for (let from = 0; from < raw.length; from += size)
    gradient.set(scaleGradient(design, scaled, raw.subarray(from, from + size)), from);
  const totals = parts.find((part) => part.totals)?.totals;
  return { rows: totals?.rows ?? 0, loss: totals?.loss ?? 0, gradient };
}
