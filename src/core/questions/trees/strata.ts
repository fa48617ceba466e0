import {
  allOf,
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  integer,
  truth,
  type Expression,
} from "../../expression/ast";
import type { HeldRows, Strata } from "../../learn/trees/tree-questions";
import { project } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { target, type FrameRows } from "../frame/frame-rows";
import { groupedNumbers } from "../groups";
import type { Question } from "../question";
import { rowUniform } from "./uniform";

const [STRATUM, NUMBER, PLACE, ROWS] = ["stratum", "number", "place", "rows"].map(hidden) as [
  string,
  string,
  string,
  string,
];

/** The stratum of a row, by its target. */
const stratumOf = (cuts: readonly number[]): Expression => ({ kind: "bin", operand: target, cuts });

/** Whether a row is held apart. */
export function isHeld({ seed, cuts, bounds }: HeldRows): Expression {
  const number = rowUniform(seed);
  const within = ([from, to]: readonly [number, number]): Expression =>
    allOf([binary(number, ">=", double(from)), binary(number, "<", double(to))]);
  return {
    kind: "case",
    subject: stratumOf(cuts),
    branches: bounds.map((bound, stratum) => ({ when: integer(stratum), then: within(bound) })),
    otherwise: truth(false),
  };
}

/** Per stratum the numbers that part its rows at shares; Infinity where all of them lie below. */
export function strataQuestion(
  { rows }: FrameRows,
  { seed, cuts }: Strata,
  shares: readonly number[],
): Question<readonly (readonly number[])[]> {
  const drawn = project(rows, [
    { name: STRATUM, expression: stratumOf(cuts) },
    { name: NUMBER, expression: rowUniform(seed) },
  ]);
  const [stratum, number] = [column(STRATUM), column(NUMBER)];
  const placed = project(drawn, [
    { name: STRATUM, expression: stratum },
    { name: NUMBER, expression: number },
    {
      name: PLACE,
      expression: {
        kind: "window",
        call: call("row_number"),
        by: [stratum],
        order: [{ expression: number }],
      },
    },
    { name: ROWS, expression: { kind: "window", call: countRows, by: [stratum], order: [] } },
  ]);
  const after = (share: number): Expression => {
    const below = call("floor", binary(binary(double(share), "*", column(ROWS)), "+", double(0.5)));
    const isNext = binary(column(PLACE), "=", binary(cast(below, "bigint"), "+", integer(1)));
    return { ...call("min", number), filter: isNext };
  };
  const { relation, read } = groupedNumbers(placed, [STRATUM], shares.map(after));
  return {
    relation,
    purpose: "draw rows in strata of the target",
    read: (found) => {
      const parts = new Map(read(found).map(({ keys, values }) => [keys[0], values]));
      return Array.from({ length: cuts.length + 1 }, (_, place) =>
        shares.map((_share, index) => parts.get(place)?.[index] ?? Infinity),
      );
    },
  };
}
