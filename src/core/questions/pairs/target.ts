import { z } from "zod";
import {
  asDouble,
  call,
  cast,
  column,
  countRows,
  isNotNull,
  NULL,
  text,
  when,
  type Expression,
} from "../../expression/ast";
import { aggregateRows, filter, project, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { doubleValue, type Question } from "../question";
import type { ProfiledColumn } from "../profile/column";
import type { CutColumn } from "./pair";
import { isUsable, numericValue } from "./parts";

export const MISSING = "(missing)";
const TARGET = hidden("target_value");

/** The part that a row is in, as text; a value that cannot be placed counts as missing. */
const partOf = ({ column, parts }: CutColumn): Expression =>
  call("coalesce", when(isUsable(column), parts.part, cast(NULL, "text")), text(MISSING));

/** Rows of a part, with mean and variance (population) of a target that is a number. */
export interface PartMoments {
  readonly part: string;
  readonly rows: number;
  readonly mean: number;
  readonly variance: number;
}

const momentRows = z.array(
  z.object({ part: z.string(), rows: doubleValue, mean: doubleValue, variance: doubleValue }),
);

/** A target that is a number within the parts of a column. */
export function partMomentsQuestion(
  rows: Relation,
  cut: CutColumn,
  target: ProfiledColumn,
): Question<readonly PartMoments[]> {
  const placed = project(filter(rows, isUsable(target)), [
    { name: "part", expression: partOf(cut) },
    { name: TARGET, expression: numericValue(target) },
  ]);
  const value = column(TARGET);
  return {
    relation: aggregateRows(
      placed,
      ["part"],
      [
        { name: "rows", expression: asDouble(countRows) },
        { name: "mean", expression: call("avg", value) },
        { name: "variance", expression: call("var_pop", value) },
      ],
    ),
    purpose: `${target.name} by ${cut.column.name}`,
    read: (found) => momentRows.parse(found),
  };
}

/** Rows of a part that have one of the target's values. */
export interface PartClass {
  readonly part: string;
  readonly value: string;
  readonly rows: number;
}

const classRows = z.array(z.object({ part: z.string(), value: z.string(), rows: doubleValue }));

/** A target of several classes within the parts of a column, in the order of parts and classes. */
export function partClassesQuestion(
  rows: Relation,
  cut: CutColumn,
  target: ProfiledColumn,
): Question<readonly PartClass[]> {
  const placed = project(filter(rows, isNotNull(column(target.name))), [
    { name: "part", expression: partOf(cut) },
    { name: "value", expression: cast(column(target.name), "text") },
  ]);
  const counted = aggregateRows(
    placed,
    ["part", "value"],
    [{ name: "rows", expression: asDouble(countRows) }],
  );
  return {
    relation: counted,
    purpose: `${target.name} by ${cut.column.name}`,
    read: (found) =>
      classRows
        .parse(found)
        .toSorted((left, right) => compare(left.part, right.part) || compare(left.value, right.value)),
  };
}

const compare = (left: string, right: string): number => Number(left > right) - Number(left < right);
