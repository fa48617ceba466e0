import { hidden } from "../names/hidden";
import { binary, call, column, isNotNull, when, type Expression } from "../expression/ast";
import { withColumns, type Relation } from "../relation/relation";
import { checkPast } from "./past";
import { existing, largestOf } from "./shared";
import type { CheckContext, ColumnSet, ColumnState } from "./step";

interface Forward {
  readonly order: string;
  readonly by?: readonly string[] | undefined;
}

/** By the place of a column among those filled: the value carried forward to a row, and the run that the row is in. */
export const forwardValue = (place: number): string => hidden(`forward_value_${place}`);
const forwardRun = (place: number): string => hidden(`forward_run_${place}`);
export const isForward = (name: string): boolean => name.startsWith(hidden("forward_"));

/** The columns that say what comes before what, checked. */
export function forwardColumns(forward: Forward, context: CheckContext): readonly ColumnState[] {
  return [
    ...checkPast(context, { order: forward.order }, ["with", "forward"]),
    ...existing(context, forward.by ?? [], ["with", "forward", "by"]),
  ];
}

/**
 * Rows with the last value at or before their moment, for each column. Counting the values so far numbers the runs that
 * begin with a value; the largest of a run is that value (or, of several at one moment, the largest of them).
 */
export function carried(
  input: Relation,
  names: readonly string[],
  forward: Forward,
  types: ColumnSet,
): Relation {
  const by = (forward.by ?? []).map((name) => column(name));
  const runs = names.map((name, place) => ({
    name: forwardRun(place),
    // Rows without a moment come last in the order and must not receive anything.
    expression: when(
      isNotNull(column(forward.order)),
      {
        kind: "window",
        call: call("count", column(name)),
        by,
        order: [{ expression: column(forward.order) }],
      },
      { kind: "literal", type: "number", text: "-1" },
    ) as Expression,
  }));
  const values = names.map((name, place) => ({
    name: forwardValue(place),
    expression: {
      kind: "case",
      branches: [
        {
          when: binary(column(forwardRun(place)), ">", { kind: "literal", type: "number", text: "0" }),
          then: {
            kind: "window",
            call: largestOf(column(name), types.get(name)?.type),
            by: [...by, column(forwardRun(place))],
            order: [],
          },
        },
      ],
    } as Expression,
  }));
  return withColumns(withColumns(input, runs), values);
}
