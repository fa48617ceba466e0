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
  type Expression,
} from "../../expression/ast";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "../../plan/frame-columns";
import type { Relation } from "../../relation/relation";

/** Rows that a question is about: those of a training frame, or those of the sample that was drawn from it. */
export interface FrameRows {
  /** Target and features, and where there are any, weight, time and random number. */
  readonly rows: Relation;
  /** The weight of a row; undefined when every row counts once. */
  readonly weight: Expression | undefined;
  /** Whether numbers are on the solver's scale, as in the sample. */
  readonly scaled: boolean;
}

export const target = column(TARGET_COLUMN);

/** The weight of a row: its own, times that of its class. */
export function weightOf(own: boolean, balance: readonly number[] | undefined): Expression | undefined {
  const code = binary(cast(target, "integer"), "+", integer(1));
  const parts: readonly Expression[] = [
    ...(own ? [column(WEIGHT_COLUMN)] : []),
    ...(balance ? [{ kind: "element" as const, place: code, values: balance }] : []),
  ];
  return parts.length === 0 ? undefined : parts.reduce((left, right) => binary(left, "*", right));
}

/** Sum of the weights. */
export const weightSum = (weight: Expression | undefined): Expression =>
  weight === undefined ? asDouble(countRows) : sum(weight);

/** exp() of an exponent that is kept within ±700, where neither too large nor too small results are errors. */
export const safeExp = (exponent: Expression): Expression =>
  call("exp", call("least", double(700), call("greatest", double(-700), exponent)));
