import { binary, call, column, isNotNull, when, type Expression } from "../expression/ast";
import { withColumns, type Relation } from "../relation/relation";
import { checkPast } from "./past";
import { existing, largestOf } from "./shared";
import type { CheckContext, ColumnSet, ColumnState } from "./step";

interface Forward {
  readonly order: string;
  readonly by?: readonly string[] | undefined;
}

/** Before the name of a column: the value carried forward to a row. */
export const FORWARD_VALUE = "ravlen_forward_value_";
const FORWARD_RUN = "ravlen_forward_run_";

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
  const runs = names.map((name) => ({
    name: `${FORWARD_RUN}${name}`,
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
  const values = names.map((name) => ({
    name: `${FORWARD_VALUE}${name}`,
    expression: {
      kind: "case",
      branches: [
        {
          when: binary(column(`${FORWARD_RUN}${name}`), ">", { kind: "literal", type: "number", text: "0" }),
          then: {
            kind: "window",
            call: largestOf(column(name), types.get(name)?.type),
            by: [...by, column(`${FORWARD_RUN}${name}`)],
            order: [],
          },
        },
      ],
    } as Expression,
  }));
  return withColumns(withColumns(input, runs), values);
}
