import { z } from "zod";
import { asDouble, call, column, countRows } from "../expression/ast";
import { aggregateRows, project, type Relation } from "../relation/relation";
import { numbersOf } from "./groups";
import { doubleValue, type Question } from "./question";

/** How many different values a column of texts has. */
export function distinctTextsQuestion(input: Relation, name: string): Question<number> {
  const { relation, read } = numbersOf(input, [asDouble({ ...call("count", column(name)), distinct: true })]);
  return { relation, purpose: "different values", read: (rows) => read(rows)[0] ?? 0 };
}

const countRowsOf = z.array(z.object({ value: z.string(), rows: doubleValue }));

/**
 * The values of a column of texts with their rows, the most frequent first.
 * @param most how many values at the most
 */
export function textCountsQuestion(
  input: Relation,
  name: string,
  most: number,
): Question<readonly { readonly value: string; readonly rows: number }[]> {
  const values = project(input, [{ name: "value", expression: column(name) }]);
  return {
    relation: {
      kind: "limit",
      input: aggregateRows(values, ["value"], [{ name: "rows", expression: asDouble(countRows) }]),
      order: [{ expression: column("rows"), descending: true }, { expression: column("value") }],
      rows: most,
    },
    purpose: "values and their rows",
    read: (rows) => countRowsOf.parse(rows),
  };
}
