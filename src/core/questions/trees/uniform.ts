import { asDouble, binary, call, cast, column, double, integer, type Expression } from "../../expression/ast";
import { MULTIPLIER, seedOffset } from "../../numeric/random";
import { DRAW_COLUMN } from "../../steps/step";

const TWO_TO_32 = 4294967296;
const MASK = integer(TWO_TO_32 - 1);

const mixed = (value: Expression): Expression =>
  call("bitwise_xor", value, call("shifted_right", value, integer(16)));

const round = (value: Expression): Expression =>
  call("bitwise_and", binary(mixed(value), "*", integer(MULTIPLIER)), MASK);

/**
 * The hash of `mix` (core/numeric/random), in whole numbers, as a number in [0, 1).
 * @param draw a random number in [0, 1)
 */
export function uniformOf(draw: Expression, seed: number): Expression {
  const whole = cast(binary(draw, "*", double(TWO_TO_32)), "bigint");
  const start = call("bitwise_and", binary(whole, "+", integer(seedOffset(seed))), MASK);
  return binary(asDouble(mixed(round(round(start)))), "/", double(TWO_TO_32));
}

/** The random number of a row of a frame, hashed with a seed. */
export const rowUniform = (seed: number): Expression => uniformOf(column(DRAW_COLUMN), seed);
