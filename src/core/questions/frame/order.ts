import { binary, call, column, double, integer, isNotNull, sum, type Expression } from "../../expression/ast";
import { TARGET_COLUMN } from "../../plan/frame-columns";
import { aggregateRows, filter, project, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { numbersOf } from "../groups";
import type { Question } from "../question";
import { target, type FrameRows } from "./frame-rows";

const [BEFORE, TOTAL, LATEST] = ["before", "total", "latest"].map(hidden) as [string, string, string];

/** Rows at which at least half of the weight is reached in the order of a value, within groups. */
export function rowsFromHalf(
  input: Relation,
  value: Expression,
  weight: Expression,
  by: readonly string[],
): Relation {
  const keys = by.map((name) => column(name));
  const running = (ordered: boolean): Expression => ({
    kind: "window",
    call: sum(weight),
    by: keys,
    order: ordered ? [{ expression: value }] : [],
  });
  const summed = project(input, [
    ...by.map((name) => ({ name, expression: column(name) })),
    { name: TARGET_COLUMN, expression: value },
    { name: BEFORE, expression: running(true) },
    { name: TOTAL, expression: running(false) },
  ]);
  return filter(summed, binary(column(BEFORE), ">=", binary(column(TOTAL), "/", integer(2))));
}

/** The smallest target at which half of the weight is reached. */
export function medianQuestion({ rows, weight }: FrameRows): Question<number> {
  const { relation, read } =
    weight === undefined
      ? numbersOf(rows, [{ ...call("percentile_disc", double(0.5)), withinGroup: target }])
      : numbersOf(rowsFromHalf(filter(rows, isNotNull(target)), target, weight, []), [call("min", target)]);
  return { relation, purpose: "median of the target", read: (found) => read(found)[0] ?? Number.NaN };
}

/** The target of the latest rows: of several at the same moment, their mean and the smallest. */
export function latestQuestion(
  { rows }: FrameRows,
  moment: string,
): Question<{ readonly mean: number | undefined; readonly smallest: number | undefined }> {
  const latest: Relation = {
    kind: "join",
    how: "inner",
    left: rows,
    right: aggregateRows(rows, [], [{ name: LATEST, expression: call("max", column(moment)) }]),
    on: [{ left: moment, right: LATEST }],
    take: [],
  };
  const { relation, read } = numbersOf(latest, [call("avg", target), call("min", target)]);
  return {
    relation,
    purpose: "the latest value of the target",
    read: (found) => {
      const [mean, smallest] = read(found);
      return { mean: mean ?? undefined, smallest: smallest ?? undefined };
    },
  };
}
